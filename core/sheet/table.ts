import { cellText, isBlankRow } from './cell.ts'
import type { CellRow } from './cell.ts'
import { describeColumn } from './columns.ts'
import type { Column, Said } from './columns.ts'
import { findHeader, headerAt, uniqueNames } from './header.ts'
import type { MergedCells } from './header.ts'

/** A row of data as the sheet counts it, from 1. `aside` says why it is not taken as data. */
export interface DataRow {
  readonly row: number
  readonly cells: CellRow
  readonly aside: string | null
}

export interface TableFound {
  readonly ok: true
  /** First row of the column names, as the sheet counts, and how many lines they take. */
  readonly headerRow: number
  readonly headerLines: 1 | 2
  readonly columns: readonly Column[]
  readonly rows: readonly DataRow[]
  /** What the reader did that nobody asked for, in words. */
  readonly notes: readonly string[]
}

export interface TableOptions {
  /** The row of column names that somebody pointed at, as the sheet counts. */
  readonly headerRow?: number | null
  readonly joined?: readonly MergedCells[]
  /** The sheet's row number of `rows[0]`. */
  readonly firstRow?: number
  readonly said?: Readonly<Record<string, Said>>
}

/**
 * Finds the table in a sheet's cells: its row of names, its typed columns, and its rows; empty rows fall away, rows of
 * totals and repeated names are set aside with the reason.
 */
export function findTable(
  rows: readonly CellRow[],
  { headerRow = null, joined = [], firstRow = 1, said = {} }: TableOptions = {},
): TableFound | { readonly ok: false; readonly problem: string } {
  const header = headerRow === null ? findHeader(rows, joined) : headerAt(rows, headerRow - firstRow, joined)
  if (!header.ok) return header
  const below = rows
    .map((cells, i) => ({ row: i + firstRow, cells }))
    .slice(header.row + header.lines)
    .filter(({ cells }) => !isBlankRow(cells))
  const width = widthOf(below.map(({ cells }) => cells))
  const names =
    width > header.names.length
      ? uniqueNames([
          ...header.names,
          ...Array.from<string>({ length: width - header.names.length }).fill(''),
        ])
      : header.names
  const found = below.map(({ row, cells }) => ({ row, cells, aside: reasonAside(cells, names) }))
  const data = found.filter(({ aside }) => aside === null)
  if (data.length === 0) return { ok: false, problem: 'There is no row of data below the column names.' }
  const numbers = data.map(({ row }) => row)
  const columns = names.map((name, i) =>
    describeColumn(
      name,
      data.map(({ cells }) => cells[i] ?? null),
      { rows: numbers, ...(said[name] ? { said: said[name] } : {}) },
    ),
  )
  return {
    ok: true,
    headerRow: header.row + firstRow,
    headerLines: header.lines,
    columns,
    rows: found,
    notes: notes(found, header.names.length, width),
  }
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

/** Why a row is no row of data; null for one that is. */
function reasonAside(cells: CellRow, names: readonly string[]): string | null {
  const texts = cells.map((cell) => cellText(cell).trim())
  const filled = texts.filter((text) => text !== '')
  if (filled.length > 1 && texts.every((text, i) => text === '' || text === names[i]))
    return 'The column names again.'
  const first = filled[0] ?? ''
  const rest = filled.slice(1)
  return /^(grand |sub[- ]?)?totals?\b|^sum\b|^Σ/i.test(first) &&
    rest.every((text) => /^[-\p{Sc}\d\s.,%()]+$/u.test(text))
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
