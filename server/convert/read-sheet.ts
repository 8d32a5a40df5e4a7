import ExcelJS from 'exceljs'
import JSZip from 'jszip'
import Papa from 'papaparse'
import type { Cell, CellRow } from '#core/sheet/cell.ts'
import { cellText, isBlankRow } from '#core/sheet/cell.ts'
import { SHEET_LIMITS } from './sheet-limits.ts'

export type ReadSheet =
  { readonly ok: true; readonly rows: readonly CellRow[] } | { readonly ok: false; readonly problem: string }

const fail = (problem: string): ReadSheet => ({ ok: false, problem })
const startsWith = (bytes: Uint8Array, ...head: number[]) => head.every((byte, i) => bytes[i] === byte)

/** Reads the first sheet of a CSV or XLSX file as rows of cells; row 1 of the file is rows[0]. Empty rows at the end fall away. */
export async function readSheetFile(name: string, bytes: Uint8Array): Promise<ReadSheet> {
  if (bytes.length === 0) return fail('The file is empty.')
  const zip = startsWith(bytes, 0x50, 0x4b, 0x03, 0x04)
  if (startsWith(bytes, 0xd0, 0xcf, 0x11, 0xe0))
    return fail(
      'This is an old XLS workbook or one protected by a password. Save it as XLSX without a password.',
    )
  if (/\.xlsx$/i.test(name) && !zip)
    return fail(
      'The file is named .xlsx, but it is not a workbook. If it holds text with commas, name it .csv.',
    )
  const read = zip ? await readWorkbook(bytes) : readText(bytes)
  return read.ok ? bounded(read.rows) : read
}

function bounded(rows: readonly CellRow[]): ReadSheet {
  const last = rows.findLastIndex((row) => !isBlankRow(row))
  const kept = rows.slice(0, last + 1)
  if (kept.length === 0) return fail('The sheet is empty.')
  if (kept.length > SHEET_LIMITS.rows)
    return fail(`The sheet has ${kept.length} rows; ${SHEET_LIMITS.rows} is the most.`)
  const width = kept.reduce((most, row) => Math.max(most, row.length), 0)
  if (width > SHEET_LIMITS.columns)
    return fail(`The sheet has ${width} columns; ${SHEET_LIMITS.columns} is the most.`)
  const long = kept.findIndex((row) =>
    row.some((cell) => typeof cell === 'string' && cell.length > SHEET_LIMITS.cellLength),
  )
  if (long >= 0) return fail(`Row ${long + 1} has a cell of more than ${SHEET_LIMITS.cellLength} characters.`)
  return { ok: true, rows: kept }
}

/** UTF-8 or UTF-16 by their marks, else UTF-8 where the bytes are valid as such, else Windows-1252. */
function decode(bytes: Uint8Array): string {
  if (startsWith(bytes, 0xff, 0xfe)) return new TextDecoder('utf-16le').decode(bytes)
  if (startsWith(bytes, 0xfe, 0xff)) return new TextDecoder('utf-16be').decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}

function readText(bytes: Uint8Array): ReadSheet {
  const text = decode(bytes)
  if (text.includes('\0'))
    return fail('This is neither a text file nor a workbook. CSV and XLSX can be read.')
  if (text.trim() === '') return fail('The file is empty.')
  // Without the last line break: the empty line after it would count against a delimiter of few columns.
  const parsed = Papa.parse<string[]>(text.replace(/[\r\n]+$/, ''), {
    delimitersToGuess: [',', ';', '\t', '|'],
  })
  const quotes = parsed.errors.find((error) => error.type === 'Quotes')
  if (quotes)
    return fail(
      `Row ${(quotes.row ?? 0) + 1}: a quotation mark is opened and never closed, or text follows a closed one.`,
    )
  return { ok: true, rows: parsed.data.map((row) => row.map((cell): Cell => (cell === '' ? null : cell))) }
}

async function readWorkbook(bytes: Uint8Array): Promise<ReadSheet> {
  const workbook = new ExcelJS.Workbook()
  let shiftDays = 0
  try {
    await workbook.xlsx.load(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
    )
    shiftDays = await unseenDateShift(bytes)
  } catch {
    return fail('The workbook cannot be opened: the file is damaged or is not a spreadsheet.')
  }
  const sheet = workbook.worksheets.find((candidate) => candidate.state === 'visible')
  if (!sheet) return fail('The workbook has no visible sheet.')
  if (sheet.actualColumnCount > SHEET_LIMITS.columns)
    return fail(`The sheet has ${sheet.actualColumnCount} columns; ${SHEET_LIMITS.columns} is the most.`)
  const rows: Cell[][] = []
  sheet.eachRow({ includeEmpty: false }, (row, position) => {
    if (position > SHEET_LIMITS.rows + 100) return
    while (rows.length < position - 1) rows.push([])
    const cells: Cell[] = []
    row.eachCell({ includeEmpty: false }, (cell, column) => {
      while (cells.length < column - 1) cells.push(null)
      // A merged cell's text stands at its first place only.
      cells.push(cell.isMerged && cell.master !== cell ? null : toCell(cell.value, cell.numFmt, shiftDays))
    })
    rows.push(cells)
  })
  return { ok: true, rows }
}

/**
 * Days to add to every date: the reader knows `date1904="1"` of a workbook, but not `"true"`, the other way the schema
 * allows to say that dates count from 1904 (xsd:boolean; ECMA-376 part 1, 18.2.28).
 */
async function unseenDateShift(bytes: Uint8Array): Promise<number> {
  const workbook = await (await JSZip.loadAsync(bytes)).file('xl/workbook.xml')?.async('string')
  return workbook && /<(?:\w+:)?workbookPr\b[^>]*\bdate1904\s*=\s*["']true["']/.test(workbook) ? 1462 : 0
}

/** A formula counts by its stored result; rich text by its letters; a date loses its time of day. */
function toCell(value: ExcelJS.CellValue, format: string | undefined, shiftDays = 0): Cell {
  if (value === null || value === undefined) return null
  if (value instanceof Date)
    return Number.isNaN(value.getTime())
      ? { error: '#VALUE!' }
      : { date: new Date(value.getTime() + shiftDays * 86_400_000).toISOString().slice(0, 10) }
  if (typeof value === 'number') return format?.includes('%') ? { fraction: value } : value
  if (typeof value !== 'object') return value
  if ('error' in value) return { error: value.error }
  if ('richText' in value) return value.richText.map((part) => part.text).join('')
  if ('hyperlink' in value)
    return typeof value.text === 'string'
      ? value.text
      : cellText(toCell(value.text as ExcelJS.CellValue, format, shiftDays))
  if ('result' in value) return toCell(value.result as ExcelJS.CellValue, format, shiftDays)
  return 'formula' in value || 'sharedFormula' in value ? null : String(value)
}
