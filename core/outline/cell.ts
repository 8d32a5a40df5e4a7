/**
 * What a cell holds. A number has the digits the sheet shows at full precision; `fraction` is a number shown as a
 * percentage (0.12 is 12 %); `date`, `time` and `dateTime` are ISO 8601 without zone, seconds only where there are any; `error` is a formula's error value such as `#REF!`.
 */
export type Cell =
  | null
  | string
  | number
  | boolean
  | { readonly date: string }
  | { readonly time: string }
  | { readonly dateTime: string }
  | { readonly fraction: number }
  | { readonly error: string }

/** What the cells of a column are. */
export const COLUMN_TYPES = [
  'text',
  'number',
  'percent',
  'date',
  'time',
  'date and time',
  'yes/no',
  'email',
  'empty',
] as const
export type ColumnType = (typeof COLUMN_TYPES)[number]

/** The cells of a row, from its first column on. */
export type CellRow = readonly Cell[]

/** How texts like 3/4/2027 are read. */
export type DateOrder = 'day first' | 'month first'

/** A cell as people see it, without any display format. */
export function cellText(cell: Cell): string {
  if (cell === null) return ''
  if (typeof cell !== 'object') return String(cell)
  if ('date' in cell) return cell.date
  if ('time' in cell) return cell.time
  if ('dateTime' in cell) return cell.dateTime.replace('T', ' ')
  return 'error' in cell ? cell.error : `${Number((cell.fraction * 100).toFixed(10))} %`
}

/** Whether nothing stands in a row. */
export const isBlankRow = (row: CellRow): boolean => row.every((cell) => cellText(cell).trim() === '')
