import { type Cell, type CellRow, cellText, isBlankRow } from '../outline/cell.ts'
import { cellFault, type Column, describeColumn, type Said } from './columns.ts'
import { findHeader, headerAt, type MergedCells, noNames, uniqueNames } from './header.ts'

/** A row of data as the sheet counts it, from 1. `aside` says why it is not taken as data. */
export interface DataRow {
  readonly row: number
  readonly cells: CellRow
  readonly aside: string | null
}

/** A table as it was found in a sheet. */
export interface TableFound {
  readonly ok: true
  /** First row of the column names, as the sheet counts; 0 where no row names them, and the letters do. */
  readonly headerRow: number
  readonly headerLines: 0 | 1 | 2
  readonly columns: readonly Column[]
  readonly rows: readonly DataRow[]
  /** What the reader did that nobody asked for, in words. */
  readonly notes: readonly string[]
}

/** What was said of how a table is to be found. */
export interface TableOptions {
  /** The row of column names that somebody pointed at, as the sheet counts; 0: no row is. */
  readonly headerRow?: number | null
  readonly joined?: readonly MergedCells[]
  /** The sheet's row number of `rows[0]`. */
  readonly firstRow?: number
  readonly said?: Readonly<Record<string, Said>>
  /** Rows the sheet does not show, counted from 0 in `rows`. */
  readonly hidden?: ReadonlySet<number>
}

/**
 * Finds the table in a sheet's cells: its row of names, its typed columns, and its rows; empty rows fall away, rows of
 * totals and repeated names are set aside with the reason.
 */
export function findTable(
  rows: readonly CellRow[],
  { headerRow = null, joined = [], firstRow = 1, said = {}, hidden = new Set() }: TableOptions = {},
): TableFound | { readonly ok: false; readonly problem: string } {
  const header =
    headerRow === null
      ? findHeader(rows, joined)
      : headerRow === 0
        ? noNames(rows)
        : headerAt(rows, headerRow - firstRow, joined)
  if (!header.ok) return header
  const first = header.row + header.lines
  const filled = filledDown(rows, joined, first)
  const below = filled.rows
    .map((cells, i) => ({ row: i + firstRow, cells, isHidden: hidden.has(i) }))
    .slice(first)
    .filter(({ cells }) => !isBlankRow(cells))
  const width = widthOf(below.map(({ cells }) => cells))
  const names = columnNames(header, width)
  const described = (data: readonly DataRow[]) => {
    const numbers = data.map(({ row }) => row)
    return names.map((name, i) =>
      describeColumn(
        name,
        data.map(({ cells }) => cells[i] ?? null),
        { rows: numbers, ...(Object.hasOwn(said, name) ? { said: said[name]! } : {}) },
      ),
    )
  }
  let found: readonly DataRow[] = below.map(({ row, cells, isHidden }) => ({
    row,
    cells,
    aside: isHidden ? HIDDEN : reasonAside(cells, names),
  }))
  const taken = () => found.filter(({ aside }) => aside === null)
  let columns = described(taken())
  const [second, third] = taken()
  if (header.lines === 1 && second && third && isSecondLine(second.cells, columns)) {
    found = found.map((row) =>
      row === second ? { ...row, aside: 'A second line of names, not of data.' } : row,
    )
    columns = described(taken())
  }
  return {
    ok: true,
    headerRow: header.lines === 0 ? 0 : header.row + firstRow,
    headerLines: header.lines,
    columns,
    rows: found,
    notes: [
      ...(header.lines === 0 && headerRow === null ? [NO_NAMES] : []),
      ...(taken().length === 0 ? ['There is no row of data below the column names.'] : []),
      ...(filled.count ? [joinedDownwards(filled.count)] : []),
      ...notes(found, header.lines === 0 ? width : header.names.length, width),
    ],
  }
}

/** A name for every column: those beyond the row of names, or all without one, have their letters. */
const columnNames = (header: { readonly names: readonly string[]; readonly lines: number }, width: number) =>
  width > header.names.length
    ? uniqueNames([
        ...(header.lines === 0 ? header.names.map(() => '') : header.names),
        ...Array.from<string>({ length: width - header.names.length }).fill(''),
      ])
    : header.names

const NO_NAMES =
  'No row was found that names the columns, so they have their letters. Point at the row of names, or keep the letters.'

const joinedDownwards = (count: number): string =>
  `${count} ${count === 1 ? 'cell' : 'cells'} joined downwards: what stands in the first counts for each of its rows.`

const HIDDEN = 'Hidden in the sheet, by hand or by its filter.'

/** What stands in a cell that is joined downwards counts for all its rows. */
function filledDown(
  rows: readonly CellRow[],
  joined: readonly MergedCells[],
  first: number,
): { readonly rows: readonly CellRow[]; readonly count: number } {
  const tall = joined.filter(({ row, rows: height, columns }) => height > 1 && columns === 1 && row >= first)
  if (tall.length === 0) return { rows, count: 0 }
  const copies = new Map<number, Cell[]>()
  let count = 0
  for (const { row, column, rows: height } of tall) {
    const cell = rows[row]?.[column] ?? null
    if (cellText(cell).trim() === '') continue
    count++
    for (let at = row + 1; at < Math.min(row + height, rows.length); at++) {
      const cells = copies.get(at) ?? [...rows[at]!]
      while (cells.length < column) cells.push(null)
      cells[column] = cell
      copies.set(at, cells)
    }
  }
  return { rows: rows.map((cells, at) => copies.get(at) ?? cells), count }
}

/** Units or the same names in another language: texts where every other row has figures, dates or the like. */
function isSecondLine(cells: CellRow, columns: readonly Column[]): boolean {
  const typed = columns.flatMap((column, at) =>
    ['text', 'empty', 'email'].includes(column.type) ? [] : [at],
  )
  const texts = typed.filter((at) => cellText(cells[at] ?? null).trim() !== '')
  return (
    typed.length >= 2 &&
    texts.length * 2 >= typed.length &&
    texts.every(
      (at) =>
        typeof cells[at] === 'string' && cellFault(columns[at]!, cells[at]) !== null && !/\d/.test(cells[at]),
    )
  )
}

/** The last column in which any row has something, counted from 1. */
function widthOf(rows: readonly CellRow[]): number {
  let width = 0
  for (const row of rows)
    for (let i = row.length; i > width; i--)
      if (cellText(row[i - 1] ?? null).trim() !== '') {
        width = i
        break
      }
  return width
}

const TOTALS = /^(grand |sub[- ]?)?totals?\b|^sum\b|^Σ/i

/** Why a row is no row of data; null for one that is. */
function reasonAside(cells: CellRow, names: readonly string[]): string | null {
  // Almost every row is one of data, and its first filled cell tells.
  const begin = cells.findIndex((cell) => cellText(cell).trim() !== '')
  const begins = cellText(cells[begin] ?? null).trim()
  if (begins !== names[begin] && !TOTALS.test(begins)) return null
  const texts = cells.map((cell) => cellText(cell).trim())
  const filled = texts.filter((text) => text !== '')
  if (filled.length > 1 && texts.every((text, i) => text === '' || text === names[i]))
    return 'The column names again.'
  const first = filled[0] ?? ''
  const rest = filled.slice(1)
  return TOTALS.test(first) && rest.every((text) => /^[-\p{Sc}\d\s.,%()]+$/u.test(text))
    ? 'A row of totals, not of data.'
    : null
}

function notes(rows: readonly DataRow[], named: number, width: number): readonly string[] {
  const long = rows.filter(({ cells }) => widthOf([cells]) > named)
  const aside = rows.filter((row) => row.aside !== null)
  return [
    ...(width > named
      ? [
          `${long.length === 1 ? 'Row' : 'Rows'} ${long
            .slice(0, 4)
            .map(({ row }) => row)
            .join(
              ', ',
            )}${long.length > 4 ? ' …' : ''} ${long.length === 1 ? 'has' : 'have'} more cells than there are column names; the further columns are named by their letters.`,
        ]
      : []),
    ...(aside.length
      ? [
          `${aside.length === 1 ? 'Row' : 'Rows'} ${aside
            .slice(0, 4)
            .map(({ row }) => row)
            .join(
              ', ',
            )}${aside.length > 4 ? ' …' : ''} ${aside.length === 1 ? 'is' : 'are'} set aside: ${[...new Set(aside.map(({ aside: why }) => why))].join(' ')}`,
        ]
      : []),
  ]
}
