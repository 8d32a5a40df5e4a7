import * as v from 'valibot'
import { count, id, instant, shortText } from './basics.ts'
import { rowProblemSchema } from './sheet.ts'

export const RUN_STATES = ['checking', 'checked', 'generating', 'paused', 'generated', 'failed'] as const
export type RunState = (typeof RUN_STATES)[number]
export const ROW_STATES = ['ready', 'needs a hand', 'made', 'failed'] as const
export type RowState = (typeof ROW_STATES)[number]

export const runStart = v.object({ name: shortText, templateId: id, sheetId: id })

export const runSummarySchema = v.object({
  id,
  name: v.string(),
  state: v.picklist(RUN_STATES),
  problem: v.nullable(v.string()),
  template: v.string(),
  edition: v.number(),
  sheet: v.string(),
  createdAt: instant,
  createdBy: v.string(),
  rows: v.object({ ready: count, hand: count, made: count, failed: count }),
  generateStartedAt: v.nullable(instant),
  generateEndedAt: v.nullable(instant),
})
export type RunSummary = v.InferOutput<typeof runSummarySchema>

export const runRowSchema = v.object({
  row: v.number(),
  label: v.string(),
  state: v.picklist(ROW_STATES),
  problems: v.array(rowProblemSchema),
  wording: v.string(),
  approvals: v.array(v.object({ approver: v.string(), reason: v.string() })),
  agreementId: v.nullable(id),
  number: v.nullable(v.string()),
})

/** Passages by the words they are known by. */
export const wordingSchema = v.object({
  key: v.string(),
  rows: v.array(v.number()),
  kept: v.array(v.string()),
  added: v.array(v.string()),
  left: v.array(v.string()),
  standard: v.boolean(),
  firstRowLabel: v.string(),
})

/** One message of a run's event stream. Rate in agreements per second; time left in seconds. */
export const runProgressSchema = v.object({
  state: v.picklist(RUN_STATES),
  rows: runSummarySchema.entries.rows,
  rate: v.nullable(v.number()),
  secondsLeft: v.nullable(v.number()),
})
export type RunProgress = v.InferOutput<typeof runProgressSchema>
