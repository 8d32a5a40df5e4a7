import * as v from 'valibot'
import { FAMILIES, HEADING_RULES, type Look } from '#core/document/look.ts'
import { count, id, instant, recordData, sha256, shortText } from './basics.ts'
import { clauseSchema } from './document.ts'

// What templates are made with: looks and pictures, shelves and teams, the clause library, saved cases.

const colour = v.pipe(v.string(), v.regex(/^#[0-9a-fA-F]{6}$/, 'A colour is written #rrggbb.'))
const points = (least: number, most: number) => v.pipe(v.number(), v.minValue(least), v.maxValue(most))
/** A document look (`core/document/look.ts`). */
export const lookContent: v.GenericSchema<Look> = v.object({
  textFamily: v.picklist(FAMILIES),
  headingFamily: v.picklist(FAMILIES),
  size: points(7, 16),
  leading: points(0.4, 1.5),
  justified: v.boolean(),
  ink: colour,
  headingInk: colour,
  margins: v.object({
    top: points(28, 200),
    bottom: points(50, 200),
    left: points(28, 200),
    right: points(28, 200),
  }),
  headingRule: v.picklist(HEADING_RULES),
  letterhead: v.object({
    logo: v.nullable(sha256),
    logoWidth: points(10, 400),
    lines: v.pipe(v.array(v.pipe(v.string(), v.maxLength(200))), v.maxLength(12)),
    align: v.picklist(['left', 'center', 'right']),
  }),
})
/** A look that can be chosen; `version` goes back with a change. */
export const lookSchema = v.object({
  id: v.string(),
  name: v.string(),
  /** Finished looks cannot be changed; a copy can. */
  own: v.boolean(),
  version: v.number(),
  look: lookContent,
})
/** A look, whole, from the version that was read. */
export const lookChange = v.object({ name: shortText, version: v.number(), look: lookContent })
/** A picture in the store, its size in pixels. */
export const pictureSchema = v.object({ file: sha256, width: v.number(), height: v.number() })

const teamRight = v.object({ team: id, use: v.boolean(), edit: v.boolean(), publish: v.boolean() })
/** A shelf of templates with its rights. */
export const shelfSchema = v.object({
  id,
  name: v.string(),
  templates: count,
  /** Without any, everyone may do here what their own rights allow. */
  rights: v.array(teamRight),
})
/** A shelf’s name and rights, whole. */
export const shelfChange = v.object({ name: shortText, rights: v.pipe(v.array(teamRight), v.maxLength(50)) })
/** People who share rights. */
export const teamSchema = v.object({ id, name: v.string(), members: v.array(v.string()) })

/** A clause of the library in its newest edition, and where it is used. */
export const libraryClauseSchema = v.object({
  id,
  title: v.string(),
  tags: v.array(v.string()),
  edition: v.number(),
  content: clauseSchema,
  changedAt: instant,
  changedBy: v.string(),
  /** Templates whose draft has the clause: linked or as a copy, and of which edition. */
  usedIn: v.array(
    v.object({ template: id, name: v.string(), linked: v.boolean(), edition: v.number(), count }),
  ),
})
/** A next edition of a clause. */
export const libraryClauseChange = v.object({
  title: shortText,
  tags: v.pipe(v.array(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(40))), v.maxLength(20)),
  content: clauseSchema,
  /** The edition it was made from; 0 for a new clause. */
  edition: v.number(),
})
/** One edition of a clause. */
export const libraryEditionSchema = v.object({
  number: v.number(),
  content: clauseSchema,
  publishedAt: instant,
  publishedBy: v.string(),
})

/** A sample record with the wording it must give. */
export const savedCaseSchema = v.object({
  id,
  name: v.string(),
  data: recordData,
  expected: v.array(v.string()),
})
/** A case to be kept. */
export const savedCaseChange = v.object({
  name: shortText,
  data: recordData,
  expected: v.pipe(v.array(v.pipe(v.string(), v.maxLength(50_000))), v.maxLength(5000)),
})
