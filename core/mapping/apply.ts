import { coerce } from '../outline/coerce.ts'
import type { FieldValue, Outline, RecordData } from '../outline/field.ts'
import { cellText } from '../sheet/cell.ts'
import type { CellRow } from '../sheet/cell.ts'
import type { Column } from '../sheet/columns.ts'
import type { Mapping } from './suggest.ts'

/** What is wrong with one value of one row, where, and in which words to say so. */
export interface RowProblem {
  readonly field: string
  readonly column: string | null
  readonly message: string
}

export interface ReadRow {
  readonly data: RecordData
  readonly problems: readonly RowProblem[]
}

/** Reads a row of cells as an outline's data. What cannot be read is left out and told as a problem; nothing throws. */
export function readRow(
  outline: Outline,
  columns: readonly Column[],
  mapping: Mapping,
  cells: CellRow,
): ReadRow {
  const positions = new Map(columns.map((column, position) => [column.name, position]))
  const data: Record<string, FieldValue> = {}
  const problems: RowProblem[] = []
  for (const field of outline) {
    if (field.computed !== undefined) continue
    const column = mapping[field.name]
    const position = column === undefined ? undefined : positions.get(column)
    if (position === undefined) {
      if (field.required)
        problems.push({ field: field.name, column: null, message: `No column gives “${field.label}”.` })
      continue
    }
    const read = coerce(field, cells[position] ?? null, columns[position]!.dateOrder)
    if (!read.ok) problems.push({ field: field.name, column: column!, message: read.problem })
    else if (read.value !== null) data[field.name] = read.value
    else if (field.required)
      problems.push({ field: field.name, column: column!, message: `“${field.label}” is missing.` })
  }
  return { data, problems }
}

/** A mapped column whose values mostly cannot be its field's: the sign of a wrong choice rather than of bad rows. */
export function mappingProblems(
  outline: Outline,
  columns: readonly Column[],
  mapping: Mapping,
  rows: readonly CellRow[],
): readonly RowProblem[] {
  const sample = rows.slice(0, 200)
  return outline.flatMap((field) => {
    const position = columns.findIndex((column) => column.name === mapping[field.name])
    if (position < 0) return []
    const filled = sample.map((row) => row[position] ?? null).filter((cell) => cellText(cell).trim() !== '')
    const wrong = filled.filter((cell) => !coerce(field, cell, columns[position]!.dateOrder).ok).length
    if (filled.length === 0 || wrong <= filled.length / 2) return []
    const message = `Column “${columns[position]!.name}” does not hold ${kind[field.type]}: ${wrong} of ${filled.length} cells looked at cannot be read as such.`
    return [{ field: field.name, column: columns[position]!.name, message }]
  })
}

const kind = {
  text: 'text',
  'long text': 'text',
  number: 'numbers',
  money: 'amounts',
  percent: 'percentages',
  date: 'dates',
  'yes/no': 'yes or no',
  choice: 'the choices',
  email: 'mail addresses',
} as const
