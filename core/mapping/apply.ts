import { coerce } from '../outline/coerce.ts'
import type { Field, FieldValue, ItemData, Outline, PlainValue, RecordData } from '../outline/field.ts'
import { cellText } from '../sheet/cell.ts'
import type { CellRow } from '../sheet/cell.ts'
import type { Column } from '../sheet/columns.ts'
import { mappingKey } from './suggest.ts'
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
  const readCell = (field: Field, name: string, column: string, position: number): PlainValue | null => {
    const read = coerce(field, cells[position] ?? null, columns[position]!.dateOrder)
    if (read.ok) return read.value
    problems.push({ field: name, column, message: read.problem })
    return null
  }
  for (const field of outline) {
    if (field.computed !== undefined) continue
    const before = problems.length
    const column = mapping[field.name]
    const position = column === undefined ? undefined : positions.get(column)
    const missing = (message: string) => {
      if (field.required && field.default === undefined && problems.length === before)
        problems.push({ field: field.name, column: column ?? null, message })
    }
    if (field.type === 'list') {
      const items = readItems(field, mapping, positions, readCell)
      if (items.length) data[field.name] = items
      else missing(`“${field.label}” has no items.`)
      continue
    }
    if (position === undefined) {
      missing(`No column gives “${field.label}”.`)
      continue
    }
    const value = readCell(field, field.name, column!, position)
    if (value !== null) data[field.name] = value
    else missing(`“${field.label}” is missing.`)
  }
  return { data, problems }
}

/** The items of a list that stands in numbered columns; an item none of whose cells is filled is not there. */
function readItems(
  list: Field,
  mapping: Mapping,
  positions: ReadonlyMap<string, number>,
  readCell: (field: Field, name: string, column: string, position: number) => PlainValue | null,
): readonly ItemData[] {
  const items = new Map<number, Record<string, PlainValue>>()
  for (const [key, column] of Object.entries(mapping)) {
    const found = key.startsWith(`${list.name}[`) ? mappingKey([list], key) : null
    const position = positions.get(column)
    if (!found || position === undefined) continue
    const value = readCell(found.field, key, column, position)
    if (value !== null) items.set(found.position, { ...items.get(found.position), [found.field.name]: value })
  }
  return [...items].sort(([a], [b]) => a - b).map(([, item]) => item)
}

/** A mapped column whose values mostly cannot be its field's: the sign of a wrong choice rather than of bad rows. */
export function mappingProblems(
  outline: Outline,
  columns: readonly Column[],
  mapping: Mapping,
  rows: readonly CellRow[],
): readonly RowProblem[] {
  const sample = rows.slice(0, 200)
  return Object.entries(mapping).flatMap(([key, name]) => {
    const field = mappingKey(outline, key)?.field
    const position = columns.findIndex((column) => column.name === name)
    if (position < 0 || !field) return []
    const filled = sample.map((row) => row[position] ?? null).filter((cell) => cellText(cell).trim() !== '')
    const wrong = filled.filter((cell) => !coerce(field, cell, columns[position]!.dateOrder).ok).length
    if (filled.length === 0 || wrong <= filled.length / 2) return []
    const message = `Column “${columns[position]!.name}” does not hold ${kind[field.type]}: ${wrong} of ${filled.length} cells looked at cannot be read as such.`
    return [{ field: key, column: columns[position]!.name, message }]
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
  phone: 'telephone numbers',
  address: 'addresses',
  list: 'lists',
} as const
