import { type Cell, cellText } from '../outline/cell.ts'

/**
 * A text that no spreadsheet takes for a formula when it opens a CSV file: one that begins with = + - @ or a control
 * character gets an apostrophe before it (OWASP, "CSV injection"; common practice). So does what comes behind a semicolon, a
 * tab or a bar within it: where the language of a spreadsheet splits cells there, quotes in the middle of a line hold nothing
 * together. Numbers stay numbers.
 */
export const harmless = (text: string): string =>
  (/^[=+\-@\t\r\n]/.test(text) && !/^[+-]?\d+([.,]\d+)*\s*%?$/.test(text) ? `'${text}` : text).replace(
    /([;\t|][" ]{0,4})(?=[=+\-@])/g,
    "$1'",
  )

/** Rows as CSV (RFC 4180): commas, CRLF, quotes doubled; every cell harmless. */
export function writeCsv(rows: readonly (readonly Cell[])[]): string {
  const cell = (value: Cell) => {
    const text = harmless(cellText(value))
    return /[",\r\n]/.test(text) || text.trim() !== text ? `"${text.replaceAll('"', '""')}"` : text
  }
  return rows.map((row) => `${row.map(cell).join(',')}\r\n`).join('')
}
