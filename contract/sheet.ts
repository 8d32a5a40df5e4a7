import * as v from 'valibot'
import { count, id, instant } from './basics.ts'

export const columnSchema = v.object({
  name: v.string(),
  type: v.picklist(['text', 'number', 'percent', 'date', 'yes/no', 'email', 'empty']),
  fitting: v.number(),
  filled: v.number(),
  odd: v.array(v.number()),
  dateOrder: v.nullable(v.picklist(['day first', 'month first'])),
  samples: v.array(v.string()),
})

export const sheetSummarySchema = v.object({
  id,
  name: v.string(),
  rowCount: count,
  columnCount: count,
  uploadedAt: instant,
  uploadedBy: v.string(),
})
export const sheetSchema = v.object({
  ...sheetSummarySchema.entries,
  headerRow: count,
  columns: v.array(columnSchema),
})

export const rowProblemSchema = v.object({
  field: v.string(),
  column: v.nullable(v.string()),
  message: v.string(),
})
export const sheetRowsSchema = v.object({
  rows: v.array(v.object({ row: v.number(), cells: v.array(v.string()) })),
})

export const mappingColumns = v.record(
  v.pipe(v.string(), v.maxLength(120)),
  v.pipe(v.string(), v.maxLength(200)),
)
export const mappingSchema = v.object({
  columns: mappingColumns,
  /** Whether someone has looked at it and saved it; otherwise it is a suggestion. */
  saved: v.boolean(),
  suggested: mappingColumns,
  /** Fields whose column cannot be right. */
  faults: v.array(rowProblemSchema),
  rowsWithProblems: v.array(
    v.object({ row: v.number(), label: v.string(), problems: v.array(rowProblemSchema) }),
  ),
  rowCount: count,
})
export const mappingChange = v.object({ columns: mappingColumns })
