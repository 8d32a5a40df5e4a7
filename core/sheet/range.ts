import type { CellRow } from '../outline/cell.ts'
import { columnLetters, columnOfLetters, type MergedCells } from './header.ts'

/** A part of a sheet, rows and columns from 0, both ends included. */
export interface Range {
  readonly top: number
  readonly left: number
  readonly bottom: number
  readonly right: number
}

/** "A3:F200" with or without $ signs; whole columns ("A:F") reach to the end. Null where it is no range. */
export function parseRange(text: string): Range | null {
  const found = /^\$?([A-Z]{1,3})\$?(\d{1,7})?:\$?([A-Z]{1,3})\$?(\d{1,7})?$/i.exec(text.trim())
  if (!found || (found[2] === undefined) !== (found[4] === undefined)) return null
  const [a, b] = [columnOfLetters(found[1]!), columnOfLetters(found[3]!)]
  const [from, to] = [Number(found[2] ?? 1) - 1, Number(found[4] ?? 10_000_000) - 1]
  if (from < 0 || to < 0) return null
  return {
    top: Math.min(from, to),
    bottom: Math.max(from, to),
    left: Math.min(a, b),
    right: Math.max(a, b),
  }
}

/** A range as a spreadsheet writes it: "A3:F200". */
export const rangeText = ({ top, left, bottom, right }: Range): string =>
  `${columnLetters(left)}${top + 1}:${columnLetters(right)}${bottom + 1}`

/** The cells of a range; row 0 of what comes out is the range's top. */
export const cropRows = (rows: readonly CellRow[], { top, left, bottom, right }: Range): readonly CellRow[] =>
  rows.slice(top, bottom + 1).map((row) => row.slice(left, right + 1))

/** Joined cells as they lie within a range. */
export const cropJoined = (joined: readonly MergedCells[], { top, left }: Range): readonly MergedCells[] =>
  joined
    .map((each) => ({ ...each, row: each.row - top, column: each.column - left }))
    .filter(({ row, column }) => row >= 0 && column >= 0)
