import { cut } from '../text/cut.ts'
import { type CellRow, cellText, isBlankRow } from '../outline/cell.ts'

/** Cells joined into one, in rows and columns from 0; the text stands in the first. */
export interface MergedCells {
  readonly row: number
  readonly column: number
  readonly rows: number
  readonly columns: number
}

/**
 * `row` is the first row of the names, counted from 0; `lines`: 2 where groups stand above the names, 0 where no row names
 * the columns: they have their letters then, and the rows begin at `row`.
 */
export type HeaderFound =
  | { readonly ok: true; readonly row: number; readonly lines: 0 | 1 | 2; readonly names: readonly string[] }
  | { readonly ok: false; readonly problem: string }

const SEARCHED_ROWS = 30

const textOf = (row: CellRow | undefined, column: number) => cellText(row?.[column] ?? null).trim()
const isName = (text: string) => text !== '' && text.length <= 80 && !/^[\d\s.,$€%/-]+$/.test(text)
const filled = (row: CellRow) => row.filter((cell) => cellText(cell).trim() !== '').length

/** A year stands among names ("Crop, 2026, 2027"), though it is a figure. */
const isYear = (text: string) => /^(19|20)\d\d$/.test(text)

/** Rows below that tell whether a figure above them is a name. */
const LOOKED_BELOW = 10

/**
 * The row that names the columns: the first of the top 30 in which most of the sheet's width is filled with different
 * short texts, years among them; else the first with at least some names that have figures or dates under them. A column
 * without a name gets its letter; a repeated name gets a number. Names that stand under a joined cell ("Bloom" over "from"
 * and "until") are read together with it: "Bloom from", "Bloom until". Where no row names the columns, they keep their
 * letters: somebody has to be asked.
 */
export function findHeader(rows: readonly CellRow[], joined: readonly MergedCells[] = []): HeaderFound {
  const top = rows.slice(0, SEARCHED_ROWS)
  const width = Math.max(0, ...top.map(filled))
  if (width === 0) return { ok: false, problem: 'The sheet is empty.' }
  const groupLine = findGroupLine(rows, joined)
  if (groupLine !== null) return namesAt(rows, groupLine, 2, joined)
  const full = top.findIndex((row, at) => names(row, rows, at) >= Math.max(1, width * 0.6))
  const row =
    full >= 0
      ? full
      : top.findIndex(
          (row, at) => names(row, rows, at) >= Math.max(1, width * 0.4) && figuresUnder(row, rows, at),
        )
  return row < 0 ? noNames(rows) : namesAt(rows, row, 1, joined)
}

/** The columns by their letters, every filled row below taken as data. */
export function noNames(rows: readonly CellRow[]): HeaderFound {
  const row = rows.findIndex((cells) => !isBlankRow(cells))
  if (row < 0) return { ok: false, problem: 'The sheet is empty.' }
  return { ok: true, row, lines: 0, names: uniqueNames(rows[row]!.map(() => '')) }
}

/** How many names a row has; none where it is no row of names. */
function names(row: CellRow, rows: readonly CellRow[], at: number): number {
  const texts = row.map((cell) => cellText(cell).trim()).filter((text) => text !== '')
  const named = row.filter((cell) => typeof cell === 'string' && isName(cell.trim())).length
  const years = row.flatMap((cell, column) =>
    (typeof cell === 'number' || typeof cell === 'string') && isYear(cellText(cell).trim()) ? [column] : [],
  )
  const sound =
    named > 0 &&
    named + years.length === texts.length &&
    new Set(texts).size >= texts.length * 0.6 &&
    years.every((column) => {
      const under = below(rows, at, column)
      return under.length > 0 && !under.some(isYear)
    })
  return sound ? texts.length : 0
}

const below = (rows: readonly CellRow[], at: number, column: number): readonly string[] =>
  rows
    .slice(at + 1, at + 1 + LOOKED_BELOW)
    .map((row) => textOf(row, column))
    .filter((text) => text !== '')

/** Whether figures or dates stand under at least half of a row's names. */
function figuresUnder(row: CellRow, rows: readonly CellRow[], at: number): boolean {
  const columns = row.flatMap((cell, column) => (cellText(cell).trim() === '' ? [] : [column]))
  const under = columns.filter((column) => {
    const texts = below(rows, at, column)
    return texts.length > 0 && texts.every((text) => /\d/.test(text) && !isName(text))
  })
  return under.length > 0 && under.length * 2 >= columns.length
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

/**
 * A line of groups: joined cells over two or more columns with texts below them. A title is none, however it is joined:
 * beside it stand no further groups, and no names that go down over both lines.
 */
function findGroupLine(rows: readonly CellRow[], joined: readonly MergedCells[]): number | null {
  const wide = joined.filter(
    ({ row, columns, rows: height }) => columns >= 2 && height === 1 && row < SEARCHED_ROWS,
  )
  for (const { row, column, columns } of wide) {
    const under = rows[row + 1]
    const width = Math.min(columns, Math.max(under?.length ?? 0, 1))
    if (!under || !Array.from({ length: width }, (_, i) => textOf(under, column + i)).every(isName)) continue
    const otherGroups = wide.some((other) => other.row === row && other.column !== column)
    const downNames = rows[row]!.some(
      (cell, i) =>
        (i < column || i >= column + columns) && isName(cellText(cell).trim()) && textOf(under, i) === '',
    )
    const ends = [...rows[row]!.keys()].filter((i) => textOf(rows[row], i) !== '')
    const besideNamed = ends.some(
      (i) => (i < column || i >= column + columns) && isName(textOf(rows[row], i)) && textOf(under, i) !== '',
    )
    if (otherGroups || downNames || (besideNamed && !isTitle(rows, row, column))) return row
  }
  return null
}

/** A title stands at the left edge, and is longer than any name below it. */
const isTitle = (rows: readonly CellRow[], row: number, column: number): boolean =>
  column === 0 &&
  textOf(rows[row], 0).length > Math.max(...(rows[row + 1] ?? []).map((cell) => cellText(cell).trim().length))

function namesAt(
  rows: readonly CellRow[],
  row: number,
  lines: 1 | 2,
  joined: readonly MergedCells[],
): HeaderFound {
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
    const name = cut(text.replace(/\s+/g, ' '), 200) || `Column ${columnLetters(column)}`
    const count = (used.get(name) ?? 0) + 1
    used.set(name, count)
    return count === 1 ? name : `${name} (${count})`
  })
}
