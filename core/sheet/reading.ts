import { number } from '../expression/values/value.ts'
import { coerce } from '../outline/coerce.ts'
import { type Cell, cellText } from '../outline/cell.ts'
import { type Column, fieldOfColumn } from './columns.ts'

/** A plain decimal without the zeros that end it: 12.50 says 12.5. */
const withoutZeros = (text: string): string =>
  /^-?\d{1,40}\.\d{1,40}$/.test(text) ? number(text).toFixed() : text

/**
 * How a cell is read, where that is not what stands in it: 02/04/2027 as 2027-04-02, 1.237,50 as 1237.5, 5 % as 0.05,
 * Y as yes. Dates and times in ISO 8601, numbers as plain decimals, percentages as fractions. Null where the cell says it
 * itself, is at fault, or the column leaves it open.
 */
export function cellReading(column: Column, cell: Cell): string | null {
  const field = fieldOfColumn(column)
  const text = cellText(cell).trim()
  if (field === null || text === '' || typeof cell !== 'string') return null
  const read = coerce(field, cell, column.dateOrder)
  if (!read.ok || read.value === null) return null
  const value = typeof read.value === 'boolean' ? (read.value ? 'yes' : 'no') : String(read.value)
  return value.toLowerCase() === withoutZeros(text).toLowerCase() ? null : value
}
