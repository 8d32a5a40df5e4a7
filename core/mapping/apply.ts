import { FIELD_KINDS } from '../outline/field-kinds.ts'
import { coerce } from '../outline/coerce.ts'
import type { Field, FieldValue, ItemData, Outline, PlainValue, RecordData } from '../outline/field.ts'
import { type CellRow, cellText } from '../outline/cell.ts'
import type { Column } from '../sheet/columns.ts'
import { EACH_ROW, mappingKey, readItemKey } from './key.ts'
import type { Mapping } from './suggest.ts'

/** What a problem of a row is about, beyond a value that is missing or wrong. */
export const PROBLEM_KINDS = ['value', 'asked', 'twice', 'live', 'file', 'overflow', 'left out'] as const
export type ProblemKind = (typeof PROBLEM_KINDS)[number]

/** What is wrong with one value of one row, where, and in which words to say so. */
export interface RowProblem {
  readonly field: string
  readonly column: string | null
  readonly message: string
  /** None: a value that is missing or wrong. */
  readonly kind?: ProblemKind | undefined
  /** Of rows made one: the row of the source it stands in. */
  readonly row?: number | undefined
  /** What stands in the cell at fault. */
  readonly cell?: string | undefined
}

/** A row’s values by field, and what could not be read. */
export interface ReadRow {
  readonly data: RecordData
  readonly problems: readonly RowProblem[]
}

/** A row of a source with its number there. */
export interface SourceRow {
  readonly row: number
  readonly cells: CellRow
}

/**
 * Values that no column gives: the same for all rows, or answered for this one; as typed, by field. That of a field of a
 * list (`lots.grade`) is for each item that has none.
 */
export interface Given {
  readonly values: Readonly<Record<string, string>>
  /** Fields asked for row by row. */
  readonly asked: readonly string[]
}

const NOTHING_GIVEN: Given = { values: {}, asked: [] }

/** Reads a row of cells as an outline's data. What cannot be read is left out and told as a problem; nothing throws. */
export const readRow = (
  outline: Outline,
  columns: readonly Column[],
  mapping: Mapping,
  cells: CellRow,
): ReadRow => readGroup(outline, columns, mapping, [{ row: 0, cells }])

/**
 * Reads rows that make one agreement: plain fields from the first row that has them (a later row that says otherwise is a
 * problem), a list mapped as `lines[].price` from each row in turn, one in numbered columns from the first row.
 */
export function readGroup(
  outline: Outline,
  columns: readonly Column[],
  mapping: Mapping,
  rows: readonly SourceRow[],
  given: Given = NOTHING_GIVEN,
): ReadRow {
  const reading = new GroupReading(columns, mapping, rows, given)
  for (const field of outline) if (field.computed === undefined) reading.read(field)
  return { data: reading.data, problems: reading.problems }
}

class GroupReading {
  readonly data: Record<string, FieldValue> = {}
  readonly problems: RowProblem[] = []
  private readonly positions: ReadonlyMap<string, number>

  constructor(
    private readonly columns: readonly Column[],
    private readonly mapping: Mapping,
    private readonly rows: readonly SourceRow[],
    private readonly given: Given,
  ) {
    this.positions = new Map(columns.map((column, position) => [column.name, position]))
  }

  read(field: Field): void {
    const before = this.problems.length
    const column = this.mapping[field.name]
    const value = field.type === 'list' ? this.items(field) : this.plain(field, column)
    if (value !== null) this.data[field.name] = value
    else if (this.problems.length === before && field.required && field.default === undefined)
      this.problems.push({ field: field.name, column: column ?? null, message: this.missing(field, column) })
  }

  private missing(field: Field, column: string | undefined): string {
    if (field.type === 'list') return `“${field.label}” has no items.`
    return column !== undefined && this.positions.has(column)
      ? `“${field.label}” is missing.`
      : `No column gives “${field.label}”.`
  }

  private plain(field: Field, column: string | undefined): PlainValue | null {
    const text = this.given.values[field.name]
    if (text !== undefined && text.trim() !== '') {
      const read = coerce(field, text, null)
      if (read.ok) return read.value
      this.problems.push({ field: field.name, column: null, message: read.problem, kind: 'asked' })
      return null
    }
    if (this.given.asked.includes(field.name)) {
      if (field.required && field.default === undefined)
        this.problems.push({
          field: field.name,
          column: null,
          message: `“${field.label}” is asked for this row.`,
          kind: 'asked',
        })
      return null
    }
    const position = column === undefined ? undefined : this.positions.get(column)
    return position === undefined ? null : this.fromRows(field, column!, position)
  }

  private fromRows(field: Field, column: string, position: number): PlainValue | null {
    let found = null as { value: PlainValue; row: number } | null
    for (const source of this.rows) {
      const value = this.cell(field, field.name, column, position, source)
      if (value === null || (found !== null && value === found.value)) continue
      if (found) {
        const message = `“${field.label}” is ${said(found.value)} in row ${found.row} and ${said(value)} here: rows of one agreement have to agree.`
        this.problems.push({ field: field.name, column, message, row: source.row })
        break
      }
      found = { value, row: source.row }
    }
    return found?.value ?? null
  }

  private cell(
    field: Field,
    name: string,
    column: string,
    position: number,
    { row, cells }: SourceRow,
  ): PlainValue | null {
    const read = coerce(field, cells[position] ?? null, this.columns[position]!.dateOrder)
    if (read.ok) return read.value
    this.problems.push({
      field: name,
      column,
      message: read.problem,
      ...(this.rows.length > 1 ? { row } : {}),
      cell: cellText(cells[position] ?? null),
    })
    return null
  }

  /** An item none of whose cells is filled is not there. */
  private items(list: Field): readonly ItemData[] | null {
    const items = new Map<number, Record<string, PlainValue>>()
    for (const [key, column] of Object.entries(this.mapping)) {
      const found = readItemKey(key)?.list === list.name ? mappingKey([list], key) : null
      const position = this.positions.get(column)
      if (!found || position === undefined) continue
      const put = (at: number, source: SourceRow) => {
        const value = this.cell(found.field, key, column, position, source)
        if (value !== null) items.set(at, { ...items.get(at), [found.field.name]: value })
      }
      if (found.position === EACH_ROW) this.rows.forEach((source, i) => put(i, source))
      else put(found.position, this.rows[0]!)
    }
    const found = [...items].sort(([a], [b]) => a - b).map(([, item]) => item)
    for (const field of list.items ?? []) this.fill(found, `${list.name}.${field.name}`, field)
    return found.length ? found : null
  }

  /** Gives items that lack a field the value given for it. */
  private fill(items: readonly Record<string, PlainValue>[], name: string, field: Field): void {
    const text = this.given.values[name]
    if (text === undefined || text.trim() === '') return
    const read = coerce(field, text, null)
    if (read.ok && read.value !== null) for (const item of items) item[field.name] ??= read.value
    if (!read.ok) this.problems.push({ field: name, column: null, message: read.problem, kind: 'asked' })
  }
}

const said = (value: PlainValue): string =>
  typeof value === 'boolean' ? (value ? 'yes' : 'no') : `“${value}”`

/** So many rows tell whether a column can be right. */
export const ROWS_LOOKED_AT = 200

/** A mapped column whose values mostly cannot be its field's: the sign of a wrong choice rather than of bad rows. */
export function mappingProblems(
  outline: Outline,
  columns: readonly Column[],
  mapping: Mapping,
  rows: readonly CellRow[],
): readonly RowProblem[] {
  const sample = rows.slice(0, ROWS_LOOKED_AT)
  return Object.entries(mapping).flatMap(([key, name]) => {
    const field = mappingKey(outline, key)?.field
    const position = columns.findIndex((column) => column.name === name)
    if (position < 0 || !field) return []
    const filled = sample.map((row) => row[position] ?? null).filter((cell) => cellText(cell).trim() !== '')
    const wrong = filled.filter((cell) => !coerce(field, cell, columns[position]!.dateOrder).ok).length
    if (filled.length === 0 || wrong <= filled.length / 2) return []
    const message = `Column “${columns[position]!.name}” does not hold ${FIELD_KINDS[field.type].values}: ${wrong} of ${filled.length} cells looked at cannot be read as such.`
    return [{ field: key, column: columns[position]!.name, message }]
  })
}
