import { cellText, isBlankRow } from './cell.ts'
import type { CellRow } from './cell.ts'

export type HeaderFound =
  | { readonly ok: true; readonly row: number; readonly names: readonly string[] }
  | { readonly ok: false; readonly problem: string }

const SEARCHED_ROWS = 30

const isName = (text: string) => text !== '' && text.length <= 80 && !/^[\d\s.,$€%/-]+$/.test(text)

/**
 * The row that names the columns: the first of the top 30 in which most of the sheet's width is filled with different
 * short texts. `row` counts from 0. A column without a name gets its letter; a repeated name gets a number.
 */
export function findHeader(rows: readonly CellRow[]): HeaderFound {
  const top = rows.slice(0, SEARCHED_ROWS)
  const filled = (row: CellRow) => row.filter((cell) => cellText(cell).trim() !== '').length
  const width = Math.max(0, ...top.map(filled))
  if (width === 0) return { ok: false, problem: 'The sheet is empty.' }
  const row = top.findIndex((candidate) => {
    const texts = candidate.map((cell) => (typeof cell === 'string' ? cell.trim() : '')).filter(isName)
    return (
      texts.length >= Math.max(1, width * 0.6) &&
      texts.length === filled(candidate) &&
      new Set(texts).size >= texts.length * 0.6
    )
  })
  const next = row < 0 ? undefined : rows.slice(row + 1).find((candidate) => !isBlankRow(candidate))
  if (row < 0)
    return {
      ok: false,
      problem: 'No row names the columns. The first row of the table has to say what each column holds.',
    }
  if (!next) return { ok: false, problem: 'There is a row of column names, but no row of data below it.' }
  return { ok: true, row, names: uniqueNames(rows[row]!) }
}

/** Spreadsheet letters of a column counted from 0: 0 is A, 26 is AA. */
export function columnLetters(column: number): string {
  return (
    (column >= 26 ? columnLetters(Math.floor(column / 26) - 1) : '') + String.fromCharCode(65 + (column % 26))
  )
}

function uniqueNames(header: CellRow): readonly string[] {
  const used = new Map<string, number>()
  return header.map((cell, column) => {
    const name = cellText(cell).trim().replace(/\s+/g, ' ') || `Column ${columnLetters(column)}`
    const count = (used.get(name) ?? 0) + 1
    used.set(name, count)
    return count === 1 ? name : `${name} (${count})`
  })
}
