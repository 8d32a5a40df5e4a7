import * as v from 'valibot'
import { HIT_POLICIES, type HitPolicy, TABLE_LIMITS } from '#core/rules/table.ts'
import { OUTPUT_KEYS, type OutputKey } from '#core/rules/outputs.ts'
import { count, id, instant, shortText } from './basics.ts'
import { fieldSchema } from './document.ts'

const cell = v.pipe(v.string(), v.maxLength(TABLE_LIMITS.cell))
const shortId = v.pipe(v.string(), v.minLength(1), v.maxLength(40))
const width = v.optional(v.pipe(v.number(), v.minValue(40), v.maxValue(1200)))

/** Which agreements a table is about. */
export const scopeSchema = v.variant('kind', [
  v.object({ kind: v.literal('all') }),
  v.object({ kind: v.picklist(['shelf', 'template', 'packet']), id }),
])

/** A rule table, as drafts and editions keep it (`core/rules/table.ts`). */
export const ruleTableContent = v.object({
  name: v.pipe(v.string(), v.trim(), v.maxLength(200)),
  scope: scopeSchema,
  hitPolicy: v.picklist(Object.keys(HIT_POLICIES) as [HitPolicy, ...HitPolicy[]]),
  missing: v.picklist(['ask', 'does not hold']),
  otherwise: v.picklist(['nothing', 'fault']),
  inputs: v.pipe(
    v.array(v.object({ id: shortId, label: v.pipe(v.string(), v.maxLength(200)), expression: cell, width })),
    v.maxLength(TABLE_LIMITS.inputs),
  ),
  outputs: v.pipe(
    v.array(v.object({ key: v.picklist(OUTPUT_KEYS as [OutputKey, ...OutputKey[]]), width })),
    v.maxLength(OUTPUT_KEYS.length),
  ),
  rows: v.pipe(
    v.array(
      v.object({
        id: shortId,
        when: v.record(shortId, cell),
        then: v.partial(
          v.object(
            Object.fromEntries(OUTPUT_KEYS.map((key) => [key, cell])) as Record<OutputKey, typeof cell>,
          ),
        ),
        note: v.pipe(v.string(), v.maxLength(TABLE_LIMITS.note)),
      }),
    ),
    v.maxLength(TABLE_LIMITS.rows, `A table has ${TABLE_LIMITS.rows} rows at the most.`),
  ),
  priorities: v.pipe(v.array(cell), v.maxLength(200)),
  escalateTo: cell,
})
export type RuleTableContent = v.InferOutput<typeof ruleTableContent>

/** A table in the list. */
export const ruleTableSummary = v.object({
  id,
  name: v.string(),
  scope: v.string(),
  rows: count,
  hitPolicy: v.string(),
  /** Newest edition; null: it has none yet. */
  edition: v.nullable(count),
  inForce: v.boolean(),
  draftDiffers: v.boolean(),
  changedAt: instant,
  changedBy: v.string(),
})

/** A case of a table: values by the columns' expressions as FEEL literals, and what the table has to say. */
export const ruleCaseChange = v.object({
  name: shortText,
  values: v.record(cell, cell),
  expected: v.pipe(v.array(cell), v.maxLength(100)),
})
export const ruleCaseSchema = v.object({ id, ...ruleCaseChange.entries })

/** The fields of a template, for the names that rules may read. */
export const templateNames = v.object({ title: v.string(), fields: v.array(fieldSchema) })

/** Who there is to approve, as rules name them. */
export const directorySchema = v.object({
  people: v.array(
    v.object({
      id,
      name: v.string(),
      post: v.string(),
      teams: v.array(v.string()),
      approves: v.boolean(),
      left: v.boolean(),
      absences: v.array(v.object({ from: v.string(), to: v.string(), standIn: v.nullable(id) })),
    }),
  ),
  teams: v.array(v.object({ name: v.string(), lead: v.nullable(id) })),
})

/** A table with its draft and all that its page shows. */
export const ruleTableSchema = v.object({
  id,
  draft: ruleTableContent,
  version: count,
  inForce: v.boolean(),
  draftDiffers: v.boolean(),
  editions: v.array(
    v.object({ number: count, publishedAt: instant, publishedBy: v.string(), note: v.string() }),
  ),
  cases: v.array(ruleCaseSchema),
  /** Agreements in approval by an edition of this table: they keep their routes. */
  onTheirWay: count,
})
export type RuleTableAnswer = v.InferOutput<typeof ruleTableSchema>

/** What a table of a scope may read, and where it could be said to apply. */
export const ruleNamesSchema = v.object({
  templates: v.array(templateNames),
  directory: directorySchema,
  scopes: v.array(v.object({ kind: v.picklist(['shelf', 'template', 'packet']), id, name: v.string() })),
})
export const scopeQuery = v.object({
  kind: v.optional(v.picklist(['all', 'shelf', 'template', 'packet']), 'all'),
  id: v.optional(id),
})

/** A draft to be saved, from the version that was read. */
export const ruleDraftChange = v.object({ version: count, draft: ruleTableContent })
export const ruleDraftSaved = v.object({ version: count })
/** A draft to be put in force, from the version that was read. */
export const rulePublish = v.object({
  version: count,
  note: v.optional(v.pipe(v.string(), v.maxLength(500)), ''),
})

/** Agreements of the past as rules see them: names to FEEL literals. */
export const ruleRecords = v.object({
  total: count,
  records: v.array(
    v.object({
      agreement: id,
      number: v.string(),
      name: v.string(),
      template: v.string(),
      values: v.record(v.string(), v.string()),
      /** Names that its templates do not have. */
      lacking: v.array(v.string()),
    }),
  ),
})

/** What is looked back over: agreements since a day, or the rows of a run. */
export const lookBackAsked = v.object({
  draft: ruleTableContent,
  run: v.optional(v.nullable(id), null),
  since: v.optional(v.nullable(v.pipe(v.string(), v.isoDate())), null),
})
const askedNames = v.array(v.string())
/** What a draft would have asked, agreement by agreement, against what is in force. */
export const lookBackSchema = v.object({
  agreements: v.array(
    v.object({
      /** The agreement, or the row of a run as `row 12`. */
      id: v.string(),
      number: v.string(),
      name: v.string(),
      /** ISO 8601 day of the Monday of its week. */
      week: v.string(),
      draft: askedNames,
      inForce: askedNames,
      problem: v.nullable(v.string()),
    }),
  ),
  /** Days that each approver usually takes: the median of what they decided; null: they never have. */
  pace: v.array(v.object({ approver: v.string(), days: v.nullable(v.number()), decided: count })),
  /** There were more than are looked at. */
  more: count,
})
export type LookBack = v.InferOutput<typeof lookBackSchema>

/** What an imported decision model said beyond a rule table. */
export const ruleImported = v.object({ id, report: v.array(v.string()) })
