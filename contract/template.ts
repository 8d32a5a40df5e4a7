import * as v from 'valibot'
import { NOTICE_FORMS, PAPERS, ROLE_SHAPES, type TemplateContent } from '#core/document/template.ts'
import { count, id, instant, recordData, shortText } from './basics.ts'
import { bodySchema, expression, few, fieldSchema, name } from './document.ts'

const fieldName = v.optional(v.nullable(name))
/** A draft is saved while it is being written; what is missing is a fault of the template, not of the saving. */
const halfWritten = v.pipe(v.string(), v.maxLength(200))
const fillRule = v.variant('rule', [
  v.object({
    rule: v.literal('record'),
    name: halfWritten,
    email: halfWritten,
    title: v.nullable(name),
    company: fieldName,
    phone: fieldName,
    list: fieldName,
  }),
  v.object({
    rule: v.literal('standing person'),
    name: halfWritten,
    email: v.pipe(v.string(), v.maxLength(320)),
    title: v.pipe(v.string(), v.maxLength(120)),
    company: v.optional(v.pipe(v.string(), v.maxLength(200))),
    phone: v.optional(v.pipe(v.string(), v.maxLength(60))),
  }),
  v.object({ rule: v.literal('whoever sends') }),
  v.object({ rule: v.literal('ask') }),
])

const pattern = v.pipe(v.string(), v.maxLength(5000))
const days = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(365))

/** All that a template says (`core/document/template.ts`), within the limits of size. */
export const templateContentSchema: v.GenericSchema<TemplateContent> = v.object({
  title: shortText,
  language: v.pipe(v.string(), v.regex(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/)),
  outline: v.pipe(v.array(fieldSchema), v.maxLength(500)),
  roles: v.pipe(
    v.array(
      v.object({
        key: name,
        label: halfWritten,
        shape: v.picklist(ROLE_SHAPES),
        order: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(25)),
        fill: fillRule,
        condition: v.optional(v.nullable(expression)),
        optional: v.optional(v.boolean()),
      }),
    ),
    v.maxLength(25),
  ),
  initialsOnEveryPage: v.pipe(v.array(name), v.maxLength(25)),
  document: bodySchema,
  sending: v.object({
    agreementName: pattern,
    fileName: pattern,
    subject: pattern,
    message: pattern,
    signByDays: v.pipe(days, v.minValue(1)),
    remindAfter: v.optional(v.pipe(v.array(days), v.maxLength(12))),
    remindBefore: v.optional(v.pipe(v.array(days), v.maxLength(12))),
    remindUnopened: v.optional(v.pipe(v.array(days), v.maxLength(12))),
    notice: v.optional(v.nullable(v.picklist(NOTICE_FORMS))),
    copies: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(254))), v.maxLength(25))),
  }),
  page: v.optional(
    v.object({
      paper: v.picklist(PAPERS),
      header: v.pipe(v.string(), v.maxLength(500)),
      footer: v.pipe(v.string(), v.maxLength(500)),
    }),
  ),
  look: v.optional(v.nullable(v.pipe(v.string(), v.maxLength(60)))),
  tickGroups: v.optional(
    v.pipe(v.array(v.object({ name, least: few, most: v.nullable(few) })), v.maxLength(40)),
  ),
})

/** What a person may do with a template, by its shelf and their own rights. */
const shelfRights = v.object({ use: v.boolean(), edit: v.boolean(), publish: v.boolean() })

/** `place` quotes the document near it. */
export const importRemark = v.object({
  kind: v.picklist(['carried over', 'changed', 'left out']),
  what: v.string(),
  place: v.string(),
  count,
})
export type ImportRemark = v.InferOutput<typeof importRemark>

/** A published state of a template; it never changes. */
export const editionSchema = v.object({
  id,
  number: v.number(),
  publishedAt: instant,
  publishedBy: v.string(),
  note: v.string(),
  /** Saved cases as they stood at publishing. */
  cases: v.object({ passed: count, failed: v.array(v.string()) }),
})
export type Edition = v.InferOutput<typeof editionSchema>

/** A template as lists show it, with what whoever asks may do with it. */
export const templateSummarySchema = v.object({
  id,
  name: v.string(),
  latestEdition: v.nullable(v.number()),
  changedAt: instant,
  changedBy: v.string(),
  draftDiffers: v.boolean(),
  agreements: v.number(),
  shelf: v.nullable(id),
  may: shelfRights,
})

/** A template with its draft and editions. */
export const templateSchema = v.object({
  id,
  name: v.string(),
  draft: templateContentSchema,
  draftVersion: v.number(),
  changedAt: instant,
  changedBy: v.string(),
  editions: v.array(editionSchema),
  draftDiffers: v.boolean(),
  shelf: v.nullable(id),
  may: shelfRights,
  /** What did not carry over from the document the template was made from. */
  importReport: v.array(importRemark),
})

/** A draft, whole, from the version it was made of. */
export const draftSave = v.object({
  version: v.pipe(v.number(), v.integer()),
  content: templateContentSchema,
})
/** The version it has now. */
export const draftSaved = v.object({ version: v.number(), changedAt: instant })

/** A fault of a draft, at its place. */
export const templateProblemSchema = v.object({
  where: v.picklist(['block', 'field', 'role', 'sending', 'page']),
  id: v.string(),
  title: v.string(),
  message: v.string(),
  from: v.nullable(v.number()),
  to: v.nullable(v.number()),
})

/** `row` counts as the spreadsheet counts; `step` moves to the row before or after it. */
export const proofRequest = v.object({
  templateId: id,
  content: templateContentSchema,
  sheetId: v.nullable(id),
  row: v.nullable(v.number()),
  /** Proofs with this agreement’s data instead of a row’s. */
  agreementId: v.optional(id),
})

/** Where a word of a proof comes from: the field, its column and cell. */
export const originSchema = v.object({
  field: v.string(),
  label: v.string(),
  format: v.string(),
  formula: v.nullable(v.string()),
  worked: v.nullable(v.string()),
  clause: v.nullable(v.string()),
  condition: v.nullable(v.string()),
  because: v.nullable(v.string()),
  item: v.nullable(v.number()),
  passage: v.string(),
  column: v.nullable(v.string()),
  cell: v.nullable(v.string()),
})

/** A text cue that leads nowhere (`core/form/cues.ts`). */
export const cueFaultSchema = v.object({ id: v.string(), title: v.string(), message: v.string() })

/** Finished pages of a draft for one row, in base64, with every word’s origin. */
export const proofSchema = v.object({
  /** Base64; null where the template has faults. */
  pdf: v.nullable(v.string()),
  pages: v.number(),
  row: v.nullable(v.number()),
  rowLabel: v.string(),
  faults: v.array(templateProblemSchema),
  problems: v.array(
    v.object({ field: v.nullable(v.string()), block: v.nullable(v.string()), message: v.string() }),
  ),
  /** Ids of conditional passages. */
  kept: v.array(v.string()),
  dropped: v.array(v.string()),
  origins: v.array(originSchema),
  /** Values too wide for the room they have; `origin` where one can be pointed at. */
  overflow: v.array(v.object({ origin: v.nullable(v.number()), text: v.string(), where: v.string() })),
  /** Blocks of signatures, by id, that stand on a page with no words above them. */
  alone: v.array(v.string()),
  /** Text cues of a form that lead nowhere. */
  cues: v.array(cueFaultSchema),
  /** Every field's value for this row as its default format shows it; null where it has none. */
  values: v.record(v.string(), v.nullable(v.string())),
  /** The record itself, to keep as a saved case. */
  data: recordData,
  milliseconds: v.number(),
})

/** Questions to a whole source: for how many rows conditions hold, and which row has the longest value of a field. */
export const surveyRequest = v.object({
  templateId: id,
  sheetId: id,
  content: templateContentSchema,
  conditions: v.pipe(v.array(expression), v.maxLength(200)),
  longest: v.nullable(name),
})
/** For how many rows of a source each condition holds. */
export const surveySchema = v.object({
  rows: count,
  conditions: v.array(v.object({ holds: count, undecided: count })),
  longest: v.nullable(v.object({ row: v.number(), text: v.string() })),
})

/** A new template, empty or as a copy. */
export const templateStart = v.object({
  title: shortText,
  shelf: v.nullable(id),
  /** Another template whose draft is copied. */
  from: v.nullable(id),
})
