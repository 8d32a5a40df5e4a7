import { cellText, isBlankRow } from './cell.ts'
import type { CellRow } from './cell.ts'

/** Cells joined into one, in rows and columns from 0; the text stands in the first. */
export interface MergedCells {
  readonly row: number
  readonly column: number
  readonly rows: number
  readonly columns: number
}

/** `row` is the first row of the names, counted from 0; `lines`: 2 where groups stand above the names. */
export type HeaderFound =
  | { readonly ok: true; readonly row: number; readonly lines: 1 | 2; readonly names: readonly string[] }
  | { readonly ok: false; readonly problem: string }

const SEARCHED_ROWS = 30

const textOf = (row: CellRow | undefined, column: number) => cellText(row?.[column] ?? null).trim()
const isName = (text: string) => text !== '' && text.length <= 80 && !/^[\d\s.,$€%/-]+$/.test(text)
const filled = (row: CellRow) => row.filter((cell) => cellText(cell).trim() !== '').length

/**
 * The row that names the columns: the first of the top 30 in which most of the sheet's width is filled with different
 * short texts. `row` counts from 0. A column without a name gets its letter; a repeated name gets a number. Names that
 * stand under a joined cell ("Bloom" over "from" and "until") are read together with it: "Bloom from", "Bloom until".
 */
export function findHeader(rows: readonly CellRow[], joined: readonly MergedCells[] = []): HeaderFound {
  const top = rows.slice(0, SEARCHED_ROWS)
  const width = Math.max(0, ...top.map(filled))
  if (width === 0) return { ok: false, problem: 'The sheet is empty.' }
  const groupLine = findGroupLine(rows, joined)
  if (groupLine !== null) return namesAt(rows, groupLine, 2, joined)
  const row = top.findIndex((candidate) => {
    const texts = candidate.map((cell) => (typeof cell === 'string' ? cell.trim() : '')).filter(isName)
    return (
      texts.length >= Math.max(1, width * 0.6) &&
      texts.length === filled(candidate) &&
      new Set(texts).size >= texts.length * 0.6
    )
  })
  if (row < 0)
    return {
      ok: false,
      problem: 'No row names the columns. The first row of the table has to say what each column holds.',
    }
  return namesAt(rows, row, 1, joined)
}

/** The names of a row somebody has pointed at. */
export const headerAt = (
  rows: readonly CellRow[],
  row: number,
  joined: readonly MergedCells[] = [],
): HeaderFound =>
  rows[row] && !isBlankRow(rows[row])
    ? namesAt(rows, row, findGroupLine(rows, joined) === row ? 2 : 1, joined)
    : { ok: false, problem: `Row ${row + 1} is empty; it cannot name the columns.` }

/** A line of groups: a joined cell over two or more columns with texts below it, and not a title over the whole width. */
function findGroupLine(rows: readonly CellRow[], joined: readonly MergedCells[]): number | null {
  for (const { row, column, columns, rows: height } of joined) {
    if (columns < 2 || height !== 1 || row >= SEARCHED_ROWS) continue
    const below = rows[row + 1]
    const under = Array.from({ length: columns }, (_, i) => textOf(below, column + i))
    if (!below || !under.every(isName)) continue
    const beside = rows[row]!.some(
      (cell, i) => (i < column || i >= column + columns) && isName(cellText(cell).trim()),
    )
    if (beside) return row
  }
  return null
}

function namesAt(
  rows: readonly CellRow[],
  row: number,
  lines: 1 | 2,
  joined: readonly MergedCells[],
): HeaderFound {
  if (!rows.slice(row + lines).some((candidate) => !isBlankRow(candidate)))
    return { ok: false, problem: 'There is a row of column names, but no row of data below it.' }
  const width = Math.max(rows[row]!.length, lines === 2 ? rows[row + 1]!.length : 0)
  const names = Array.from({ length: width }, (_, column) => {
    if (lines === 1) return textOf(rows[row], column)
    const over = joined.find(
      (each) => each.row === row && column >= each.column && column < each.column + each.columns,
    )
    const group = textOf(rows[row], over?.column ?? column)
    const name = textOf(rows[row + 1], column)
    return [group, name].filter((part) => part !== '').join(' ')
  })
  return { ok: true, row, lines, names: uniqueNames(names) }
}

/** Spreadsheet letters of a column counted from 0: 0 is A, 26 is AA. */
export function columnLetters(column: number): string {
  return (
    (column >= 26 ? columnLetters(Math.floor(column / 26) - 1) : '') + String.fromCharCode(65 + (column % 26))
  )
}

/** The other way round: "AA" is 26. */
export const columnOfLetters = (letters: string): number =>
  [...letters.toUpperCase()].reduce((sum, letter) => sum * 26 + letter.charCodeAt(0) - 64, 0) - 1

/** Names for columns: one without a name gets its letter, a repeated one a number. */
export function uniqueNames(texts: readonly string[]): readonly string[] {
  const used = new Map<string, number>()
  return texts.map((text, column) => {
    const name = text.replace(/\s+/g, ' ').slice(0, 200) || `Column ${columnLetters(column)}`
    const count = (used.get(name) ?? 0) + 1
    used.set(name, count)
    return count === 1 ? name : `${name} (${count})`
  })
}
