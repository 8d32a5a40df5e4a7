import { FIELD_TYPES } from '#core/outline/field-kinds.ts'
import { RUN_STATES } from '#core/run/states.ts'
import { OUTPUT } from '#core/states/all.ts'
import * as v from 'valibot'
import { count, id, instant, shortText, eitherOr } from './basics.ts'
import { columnSchema, mappingColumns, rowProblemSchema } from './sheet.ts'

/** States of a run’s row. `skipped` rows stay listed with the reason. */
export const ROW_STATES = ['ready', 'needs a hand', 'skipped', 'made', 'failed'] as const
export type RowState = (typeof ROW_STATES)[number]

/** What can be made of a whole run. */
export const OUTPUT_KINDS = [
  'archive of PDFs',
  'archive of DOCX',
  'archive of single documents',
  'one PDF',
  'trial',
  'result sheet',
  'result sheet as CSV',
] as const
export type OutputKind = (typeof OUTPUT_KINDS)[number]
/** How far such a thing is. */

const name200 = v.pipe(v.string(), v.minLength(1), v.maxLength(200))
const expression = v.pipe(v.string(), v.trim(), v.maxLength(4000))
const nullable = <S extends v.GenericSchema>(schema: S) => v.optional(v.nullable(schema), null)

/** How a run takes its rows (`core/run/setup.ts`). */
export const runSetupSchema = v.object({
  rule: nullable(expression),
  groupBy: v.optional(v.pipe(v.array(name200), v.maxLength(6)), []),
  values: v.optional(
    v.record(v.pipe(v.string(), v.maxLength(120)), v.pipe(v.string(), v.maxLength(5000))),
    {},
  ),
  askRows: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(120))), v.maxLength(200)), []),
  sameBy: nullable(
    v.union([
      v.strictObject({ field: v.pipe(v.string(), v.maxLength(120)) }),
      v.strictObject({ column: name200 }),
    ]),
  ),
  duplicates: v.optional(v.picklist(['ask', 'allow']), 'ask'),
  languageColumn: nullable(name200),
  copiesColumn: nullable(name200),
  fileColumn: nullable(name200),
  fileName: nullable(v.pipe(v.string(), v.trim(), v.maxLength(200))),
})

/** A run over a sheet: of one template, or of a packet. */
export const runStart = v.pipe(
  v.object({
    name: shortText,
    templateId: v.optional(id),
    packetId: v.optional(id),
    sheetId: id,
    setup: v.optional(runSetupSchema),
  }),
  eitherOr('templateId', 'packetId'),
)
/** Name, mapping or set-up; what is absent stays. */
export const runChange = v.object({
  name: v.optional(shortText),
  mapping: v.optional(mappingColumns),
  setup: v.optional(runSetupSchema),
})

/** A run as lists show it, with its rows by state. */
export const runSummarySchema = v.object({
  id,
  name: v.string(),
  state: v.picklist(RUN_STATES),
  problem: v.nullable(v.string()),
  /** Something has changed that the rows have not been checked by yet. */
  behind: v.boolean(),
  template: v.string(),
  edition: v.number(),
  /** Titles of a packet's documents; empty for a single template. */
  packet: v.array(v.string()),
  sheet: v.string(),
  sheetId: id,
  fromRecords: v.boolean(),
  createdAt: instant,
  createdBy: v.string(),
  rows: v.object({
    ready: count,
    hand: count,
    skipped: count,
    made: count,
    failed: count,
    /** Of those made: whose data has changed since. */
    changed: count,
    /** Rows whose pages have been looked at for what does not fit. */
    measured: count,
  }),
  generateStartedAt: v.nullable(instant),
  generateEndedAt: v.nullable(instant),
})
export type RunSummary = v.InferOutput<typeof runSummarySchema>

const plainField = v.object({
  name: v.string(),
  label: v.string(),
  type: v.picklist(FIELD_TYPES),
  required: v.boolean(),
  list: v.nullable(v.string()),
  help: v.nullable(v.string()),
  example: v.nullable(v.string()),
  default: v.nullable(v.string()),
  choices: v.nullable(v.array(v.string())),
})

/** All that the set-up page shows. */
export const runSetupView = v.object({
  templateId: id,
  mapping: mappingColumns,
  suggested: mappingColumns,
  remembered: v.boolean(),
  drift: v.array(v.object({ field: v.string(), was: v.string(), now: v.nullable(v.string()) })),
  setup: v.required(runSetupSchema),
  /** Fields that a source or a prompt has to give; of lists, their items. */
  fields: v.array(plainField),
  /** Fields whose merged values can be shown of every row. */
  shown: v.array(v.object({ name: v.string(), label: v.string(), type: v.picklist(FIELD_TYPES) })),
  /** Those that its template tells receivers of: shown where nobody chose others. */
  telling: v.array(v.string()),
  columns: v.array(columnSchema),
  /** The columns as row rules name them. */
  columnFields: v.array(
    v.object({
      name: v.string(),
      label: v.string(),
      type: v.picklist(FIELD_TYPES),
      required: v.boolean(),
      choices: v.optional(v.array(v.string())),
    }),
  ),
  faults: v.array(rowProblemSchema),
  ruleProblem: v.nullable(v.string()),
  /** By what customers are known where nobody says otherwise, and whether a column was found that tells them better than their names. */
  knownBy: v.object({ field: v.optional(v.string()), column: v.optional(v.string()), found: v.boolean() }),
  files: v.array(v.string()),
  /** What the next agreement of this series is numbered. */
  nextNumber: v.string(),
  locked: v.boolean(),
})

/** What does not fit on a row's pages; `alone`: signatures with no words above them. */
const tight = v.object({ where: v.string(), text: v.string(), alone: v.optional(v.literal(true)) })

/** Fields whose merged values are asked for, a hundred rows from this one on. */
export const rowValuesQuery = v.object({
  from: v.pipe(v.string(), v.regex(/^\d{1,9}$/), v.transform(Number)),
  fields: v.pipe(
    v.string(),
    v.maxLength(1000),
    v.transform((text) => text.split(',').filter(Boolean)),
    v.maxLength(8),
  ),
})
/** What rows say in the fields asked for, as their agreements show it; null: nothing. */
export const rowValuesSchema = v.array(
  v.object({ row: v.number(), values: v.record(v.string(), v.nullable(v.string())) }),
)

/** One row: its state, what is wrong, who signs and approves, and its agreement once there is one. */
export const runRowSchema = v.object({
  row: v.number(),
  sourceRows: v.array(v.number()),
  label: v.string(),
  state: v.picklist(ROW_STATES),
  problems: v.array(rowProblemSchema),
  wording: v.string(),
  approvals: v.array(v.object({ approver: v.string(), reason: v.string() })),
  people: v.array(v.object({ label: v.string(), name: v.string(), email: v.string(), order: v.number() })),
  answers: v.record(v.string(), v.string()),
  decision: v.nullable(v.picklist(['make', 'leave out'])),
  changed: v.boolean(),
  language: v.nullable(v.string()),
  copies: v.array(v.string()),
  extra: v.array(v.string()),
  pages: v.nullable(v.number()),
  overflow: v.array(tight),
  agreementId: v.nullable(id),
  number: v.nullable(v.string()),
  agreementState: v.nullable(v.string()),
})
/** Which of the changed rows are made again; all of them without a list. */
export const rowsRedone = v.object({
  rows: v.optional(
    v.pipe(v.array(v.pipe(v.number(), v.integer(), v.minValue(0))), v.minLength(1), v.maxLength(20_000)),
  ),
})
/** Rows to make all the same or to leave out; null takes it back. */
export const rowsDecided = v.object({
  rows: v.pipe(v.array(v.pipe(v.number(), v.integer(), v.minValue(0))), v.minLength(1), v.maxLength(20_000)),
  decision: v.nullable(v.picklist(['make', 'leave out'])),
})
/** Values given for one row, as typed, by field. */
export const rowAnswers = v.object({
  answers: v.record(v.pipe(v.string(), v.maxLength(120)), v.pipe(v.string(), v.maxLength(5000))),
})
/** A stretch of text that stayed, came or went. */
export const wordChangeSchema = v.object({
  kind: v.picklist(['same', 'added', 'removed']),
  text: v.string(),
})
/** What a made row would say now, against what it says: paragraphs that differ, and the values behind them. */
export const rowChangesSchema = v.object({
  values: v.array(v.object({ label: v.string(), before: v.string(), after: v.string() })),
  paragraphs: v.array(v.array(wordChangeSchema)),
  /** Why it cannot be made again; null where it can. */
  refusal: v.nullable(v.string()),
})

/** Passages by the words they are known by. */
export const wordingSchema = v.object({
  key: v.string(),
  rows: v.array(v.number()),
  kept: v.array(v.string()),
  added: v.array(v.string()),
  left: v.array(v.string()),
  standard: v.boolean(),
  typical: v.object({ row: v.number(), label: v.string() }),
  longest: v.object({ row: v.number(), label: v.string() }),
  read: v.nullable(v.object({ by: v.string(), at: instant })),
})
/** A wording by its key, read or not. */
export const wordingTick = v.object({ key: v.pipe(v.string(), v.maxLength(20_000)), read: v.boolean() })

/** What is to be made of a run, of which rows. */
export const outputStart = v.object({
  kind: v.picklist(OUTPUT_KINDS),
  /** Of a trial: the rows to show; without, one of each wording. */
  rows: v.optional(v.pipe(v.array(v.number()), v.maxLength(2000))),
})
/** Something made of a run, or in the making. */
export const outputSchema = v.object({
  id,
  kind: v.picklist(OUTPUT_KINDS),
  state: v.picklist(OUTPUT.states),
  done: count,
  total: count,
  name: v.string(),
  size: v.nullable(v.number()),
  problem: v.nullable(v.string()),
  createdAt: instant,
  createdBy: v.string(),
  sharedUntil: v.nullable(instant),
})
/** Days that a share link holds. */
export const outputShare = v.object({ days: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(90)) })
/** A share link; shown this once. */
export const sharedLink = v.object({ url: v.string(), until: instant })

/** One message of a run's event stream. Rate in agreements per second; time left in seconds. */
export const runProgressSchema = v.object({
  state: v.picklist(RUN_STATES),
  behind: runSummarySchema.entries.behind,
  rows: runSummarySchema.entries.rows,
  rate: v.nullable(v.number()),
  secondsLeft: v.nullable(v.number()),
})
export type RunProgress = v.InferOutput<typeof runProgressSchema>
