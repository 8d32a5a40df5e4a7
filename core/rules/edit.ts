import type { NameTypes } from '../expression/check.ts'
import { type Tested, typedCell } from './cell.ts'
import type { OutputKey } from './outputs.ts'
import { type Row, type RuleTable, TABLE_LIMITS } from './table.ts'

// Changes of a rule table, each from a table to a table: what can be done with it by hand.

/** A column of the table as it is written: a condition, an output, or the comment. */
export type ColumnOf =
  | { readonly kind: 'input'; readonly id: string }
  | { readonly kind: 'output'; readonly key: OutputKey }
  | { readonly kind: 'note' }

/** All columns in their order. */
export const columnsOf = ({ inputs, outputs }: RuleTable): readonly ColumnOf[] => [
  ...inputs.map(({ id }) => ({ kind: 'input', id }) as const),
  ...outputs.map(({ key }) => ({ kind: 'output', key }) as const),
  { kind: 'note' },
]

/** What stands in a cell, as it is written. */
export function cellText(row: Row, column: ColumnOf): string {
  if (column.kind === 'input') return row.when[column.id] ?? '-'
  return column.kind === 'output' ? (row.then[column.key] ?? '') : row.note
}

const limited = (text: string, most: number) => text.slice(0, most)

function withCell(row: Row, column: ColumnOf, text: string): Row {
  if (column.kind === 'input')
    return { ...row, when: { ...row.when, [column.id]: limited(text, TABLE_LIMITS.cell) } }
  if (column.kind === 'output')
    return { ...row, then: { ...row.then, [column.key]: limited(text, TABLE_LIMITS.cell) } }
  return { ...row, note: limited(text, TABLE_LIMITS.note) }
}

/** How a cell is read as it is written: by what its column tests. */
export interface Reading {
  readonly testedOf: (input: string) => Tested
  readonly types: NameTypes
}

/** A cell as somebody typed it, in any sheet's words. */
export const read = (column: ColumnOf, text: string, { testedOf, types }: Reading): string =>
  column.kind === 'input' ? typedCell(text, testedOf(column.id), types) : text.trim()

/** The table with another text in one cell. */
export const setCell = (table: RuleTable, row: number, column: ColumnOf, text: string): RuleTable => ({
  ...table,
  rows: table.rows.map((each, i) => (i === row ? withCell(each, column, text) : each)),
})

const emptyRow = (id: string): Row => ({ id, when: {}, then: {}, note: '' })

/** Rows put in before a place. */
export const insertRows = (table: RuleTable, at: number, rows: readonly Row[]): RuleTable => ({
  ...table,
  rows: [...table.rows.slice(0, at), ...rows, ...table.rows.slice(at)],
})

export const insertRow = (table: RuleTable, at: number, id: string, row: Partial<Row> = {}): RuleTable =>
  insertRows(table, at, [{ ...emptyRow(id), ...row }])

/** The table without the rows at these places (from 0). */
export const removeRows = (table: RuleTable, places: readonly number[]): RuleTable => ({
  ...table,
  rows: table.rows.filter((_, i) => !places.includes(i)),
})

/** A row taken from one place and put at another. */
export function moveRow(table: RuleTable, from: number, to: number): RuleTable {
  const rows = [...table.rows]
  const [row] = rows.splice(from, 1)
  if (!row) return table
  rows.splice(Math.max(0, Math.min(rows.length, to)), 0, row)
  return { ...table, rows }
}

/** A table after a block was pasted, or why it was not. */
export type Pasted =
  | { readonly ok: true; readonly table: RuleTable; readonly rows: number; readonly columns: number }
  | { readonly ok: false; readonly problem: string }

/** Tab-separated lines, as spreadsheets put them on the clipboard: a cell in quotation marks may hold line breaks. */
export function readBlock(text: string): readonly (readonly string[])[] {
  const lines: string[][] = [[]]
  let cell = ''
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const letter = text[i]!
    if (quoted) {
      if (letter !== '"') cell += letter
      else if (text[i + 1] === '"') cell += text[++i]!
      else quoted = false
    } else if (letter === '"' && cell === '') quoted = true
    else if (letter === '\t' || letter === '\n') {
      lines.at(-1)!.push(cell)
      cell = ''
      if (letter === '\n') lines.push([])
    } else if (letter !== '\r') cell += letter
  }
  if (cell !== '' || lines.at(-1)!.length) lines.at(-1)!.push(cell)
  return lines.at(-1)!.length ? lines : lines.slice(0, -1)
}

/** A cell as it goes into such a block. */
const blockCell = (text: string): string => (/[\t\n"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text)

/** Cells as a text that other sheets take: tabs between columns, a line a row. */
export const writeBlock = (cells: readonly (readonly string[])[]): string =>
  cells.map((line) => line.map(blockCell).join('\t')).join('\n')

/**
 * Cells of another sheet put in from a place on, rows added as they are needed. More than a table takes is refused as a whole,
 * with nothing changed.
 */
export function pasteBlock(
  table: RuleTable,
  at: { readonly row: number; readonly column: number },
  block: readonly (readonly string[])[],
  reading: Reading,
  newId: () => string,
): Pasted {
  const columns = columnsOf(table)
  const needed = at.row + block.length
  if (needed > TABLE_LIMITS.rows)
    return {
      ok: false,
      problem: `${block.length} rows do not go in: a table has ${TABLE_LIMITS.rows} rows at the most. Nothing was pasted.`,
    }
  const width = Math.max(0, ...block.map((line) => line.length))
  const rows = [...table.rows]
  while (rows.length < needed) rows.push(emptyRow(newId()))
  block.forEach((line, i) => {
    line.forEach((text, j) => {
      const column = columns[at.column + j]
      if (column) rows[at.row + i] = withCell(rows[at.row + i]!, column, read(column, text, reading))
    })
  })
  return {
    ok: true,
    table: { ...table, rows },
    rows: block.length,
    columns: Math.min(width, columns.length - at.column),
  }
}

/** The table with a further input, whose cells are empty. */
export const addInput = (table: RuleTable, id: string, expression: string): RuleTable => ({
  ...table,
  inputs: [...table.inputs, { id, label: '', expression }],
})

/** The table with one input changed. */
export const changeInput = (
  table: RuleTable,
  id: string,
  change: Partial<Pick<RuleTable['inputs'][number], 'label' | 'expression' | 'width'>>,
): RuleTable => ({
  ...table,
  inputs: table.inputs.map((each) => (each.id === id ? { ...each, ...change } : each)),
})

/** The table without an input and its cells. */
export const removeInput = (table: RuleTable, id: string): RuleTable => ({
  ...table,
  inputs: table.inputs.filter((each) => each.id !== id),
  rows: table.rows.map((row) => {
    const { [id]: _gone, ...when } = row.when
    return { ...row, when }
  }),
})

/** The table with these outputs; what rows say of others stays with them, unused. */
export const setOutputs = (table: RuleTable, keys: readonly OutputKey[]): RuleTable => ({
  ...table,
  outputs: keys.map((key) => table.outputs.find((each) => each.key === key) ?? { key }),
})

/** The table with one output so wide, in CSS pixels. */
export const setOutputWidth = (table: RuleTable, key: OutputKey, width: number): RuleTable => ({
  ...table,
  outputs: table.outputs.map((each) => (each.key === key ? { ...each, width } : each)),
})
