import { COLUMN_TYPES } from '#core/outline/cell.ts'
import * as v from 'valibot'
import { PROBLEM_KINDS } from '#core/mapping/apply.ts'
import { ENCODINGS } from '#core/sheet/encodings.ts'
import { count, id, instant, pageQuery } from './basics.ts'

const columnType = v.picklist(COLUMN_TYPES)
const dateOrder = v.picklist(['day first', 'month first'])

/** A column of a sheet: what it holds, and how it knows (`core/sheet/columns.ts`). */
export const columnSchema = v.object({
  name: v.string(),
  type: columnType,
  fitting: v.number(),
  filled: v.number(),
  odd: v.array(v.number()),
  dateOrder: v.nullable(dateOrder),
  unsure: v.array(v.string()),
  samples: v.array(v.string()),
  values: v.optional(v.array(v.string())),
  said: v.object({ type: v.optional(columnType), dateOrder: v.optional(dateOrder) }),
})

const columnName = v.pipe(v.string(), v.maxLength(200))
/** How a file is to be read; null: found out. */
export const readingSchema = v.object({
  table: v.nullable(v.pipe(v.string(), v.maxLength(200))),
  range: v.nullable(v.pipe(v.string(), v.maxLength(300))),
  headerRow: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(100_000))),
  delimiter: v.nullable(v.pipe(v.string(), v.length(1))),
  encoding: v.nullable(v.picklist(ENCODINGS)),
})
/** What somebody says of a column. */
export const columnChange = v.object({
  column: columnName,
  /** Null: as its cells tell. */
  type: v.optional(v.nullable(columnType)),
  dateOrder: v.optional(v.nullable(dateOrder)),
})

/** A sheet as lists show it. */
export const sheetSummarySchema = v.object({
  id,
  name: v.string(),
  rowCount: count,
  columnCount: count,
  uploadedAt: instant,
  uploadedBy: v.string(),
  /** Of a list for a template: it has fed that template before. */
  known: v.optional(v.boolean()),
})
/** A sheet with its columns, how it was read, and what else in its file there is. */
export const sheetSchema = v.object({
  ...sheetSummarySchema.entries,
  kind: v.picklist(['text', 'xlsx', 'ods', 'json', 'records']),
  headerRow: count,
  columns: v.array(columnSchema),
  reading: v.nullable(readingSchema),
  tables: v.array(v.object({ name: v.string(), rows: v.number() })),
  /** Named ranges and defined tables. */
  names: v.array(v.object({ name: v.string(), table: v.string(), range: v.string() })),
  notes: v.array(v.string()),
  /** Cells that were mended here. */
  mended: count,
})

/** What is wrong with one value of one row, in words. */
export const rowProblemSchema = v.object({
  field: v.string(),
  column: v.nullable(v.string()),
  message: v.string(),
  kind: v.optional(v.picklist(PROBLEM_KINDS)),
  row: v.optional(v.number()),
  cell: v.optional(v.string()),
})
/** A page of a sheet’s rows; `odd`: only those with a cell at fault. */
export const sheetRowsQuery = v.object({
  ...pageQuery.entries,
  search: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(100))),
  /** Only rows with a cell that is not like its column. */
  odd: v.optional(v.literal('yes')),
})
/** Rows with their cells as text, the faults and what was mended. */
export const sheetRowsSchema = v.object({
  total: count,
  rows: v.array(
    v.object({
      row: v.number(),
      cells: v.array(v.string()),
      aside: v.nullable(v.string()),
      /** Cells at fault, by the place of their column. */
      faults: v.array(v.object({ at: v.number(), message: v.string() })),
      /** How cells are read that are read as something else than what stands in them. */
      read: v.array(v.object({ at: v.number(), as: v.string() })),
      mended: v.array(v.object({ at: v.number(), before: v.string() })),
    }),
  ),
})
/** Null brings back what stood there in the file. */
export const mending = v.object({
  cells: v.pipe(
    v.array(
      v.object({
        row: v.pipe(v.number(), v.integer(), v.minValue(1)),
        column: columnName,
        value: v.nullable(v.pipe(v.string(), v.maxLength(32_767))),
      }),
    ),
    v.minLength(1),
    v.maxLength(2000),
  ),
})

/** Column by field (`core/mapping/key.ts`). */
export const mappingColumns = v.record(
  v.pipe(v.string(), v.maxLength(120)),
  v.pipe(v.string(), v.maxLength(200)),
)
/** Which column feeds which field, with what that leads to. */
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
  /** Columns that fields were fed from the last time and that are not there any more. */
  drift: v.array(v.object({ field: v.string(), was: v.string(), now: v.nullable(v.string()) })),
  remembered: v.boolean(),
  rowCount: count,
})
/** The mapping, whole. */
export const mappingChange = v.object({ columns: mappingColumns })
