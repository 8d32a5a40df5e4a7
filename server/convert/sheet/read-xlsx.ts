import ExcelJS from 'exceljs'
import type { Cell } from '#core/sheet/cell.ts'
import { cellText } from '#core/sheet/cell.ts'
import { parseRange } from '#core/sheet/range.ts'
import { ZipPackage } from '../zip-package.ts'
import { RowCollector, sheetNumber, SheetFault } from './book.ts'
import type { Book, BookTable, NamedRange } from './book.ts'

export const WORKBOOK_LIMITS = { part: 200_000_000, whole: 300_000_000, parts: 3000 } as const

/** The visible sheets of an XLSX workbook (ECMA-376). */
export async function readXlsx(bytes: Uint8Array): Promise<Book> {
  const zip = await ZipPackage.open(bytes, WORKBOOK_LIMITS, 'workbook')
  const workbook = new ExcelJS.Workbook()
  const described = await textOf(zip, 'xl/workbook.xml')
  try {
    await workbook.xlsx.load((await withoutEmptyRows(zip)) ?? (exactBuffer(bytes) as ArrayBuffer))
  } catch (error) {
    if (error instanceof SheetFault) throw error
    throw new SheetFault('The workbook cannot be opened: the file is damaged or is not a spreadsheet.')
  }
  const visible = workbook.worksheets.filter(({ state }) => state === 'visible')
  if (visible.length === 0) throw new SheetFault('The workbook has no visible sheet.')
  const shift = unseenDateShift(described)
  return {
    kind: 'xlsx',
    tables: visible.map((sheet) => tableOf(sheet, shift)),
    names: definedNames(described),
    delimiter: null,
    encoding: null,
  }
}

const exactBuffer = (bytes: Uint8Array) =>
  bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength)

const textOf = async (zip: ZipPackage, name: string): Promise<string> =>
  new TextDecoder().decode((await zip.bytes(name)) ?? new Uint8Array())

/** Rows without any value, such as a format drawn down to the end of the sheet, would each cost the reader an object. */
const EMPTY_ROWS = /<row\b[^>]*\/>|<row\b[^>]*>(?:<c\b[^>]*(?:\/>|><\/c>))*<\/row>/g
const LARGE_PART = 2_000_000

async function withoutEmptyRows(zip: ZipPackage): Promise<ArrayBuffer | null> {
  let changed = false
  for (const name of zip.names().filter((each) => /^xl\/worksheets\/[^/]+\.xml$/.test(each))) {
    const text = await textOf(zip, name)
    if (text.length < LARGE_PART) continue
    const shorter = text.replace(EMPTY_ROWS, '')
    if (shorter.length === text.length) continue
    zip.replace(name, shorter)
    changed = true
  }
  return changed ? zip.packed() : null
}

function tableOf(sheet: ExcelJS.Worksheet, shiftDays: number): BookTable {
  const collector = new RowCollector()
  sheet.eachRow({ includeEmpty: false }, (row, position) => {
    const cells: Cell[] = []
    row.eachCell({ includeEmpty: false }, (cell, column) => {
      while (cells.length < column - 1) cells.push(null)
      // A joined cell's text stands at its first place only.
      cells.push(cell.isMerged && cell.master !== cell ? null : toCell(cell.value, cell.numFmt, shiftDays))
    })
    collector.put(position - 1, cells)
  })
  const { merges } = sheet.model as unknown as { readonly merges?: readonly string[] }
  const joined = (merges ?? []).flatMap((text) => {
    const range = parseRange(text)
    return range
      ? [
          {
            row: range.top,
            column: range.left,
            rows: range.bottom - range.top + 1,
            columns: range.right - range.left + 1,
          },
        ]
      : []
  })
  return { name: sheet.name, rows: collector.rows, joined }
}

/** Names for ranges (ECMA-376 part 1, 18.2.5); those the program keeps for itself begin with `_xlnm`. */
function definedNames(workbook: string): readonly NamedRange[] {
  return [...workbook.matchAll(/<(?:\w+:)?definedName\b([^>]*)>([^<]*)</g)].flatMap(
    ([, attributes, target]) => {
      const name = /\bname="([^"]*)"/.exec(attributes!)?.[1]
      const found = /^(?:'((?:[^']|'')+)'|([^'!]+))!(\$?[A-Z]+\$?\d*:\$?[A-Z]+\$?\d*)$/.exec(
        unescape(target!),
      )
      if (!name || name.startsWith('_xlnm') || !found || /\bhidden="(1|true)"/.test(attributes!)) return []
      return [
        {
          name,
          table: (found[1] ?? found[2]!).replaceAll("''", "'"),
          range: found[3]!.replaceAll('$', ''),
        },
      ]
    },
  )
}

const unescape = (text: string) =>
  text
    .replaceAll('&apos;', "'")
    .replaceAll('&quot;', '"')
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&amp;', '&')

/**
 * Days to add to every date: the reader knows `date1904="1"` of a workbook, but not `"true"`, the other way the schema
 * allows to say that dates count from 1904 (xsd:boolean; ECMA-376 part 1, 18.2.28).
 */
const unseenDateShift = (workbook: string): number =>
  /<(?:\w+:)?workbookPr\b[^>]*\bdate1904\s*=\s*["']true["']/.test(workbook) ? 1462 : 0

/** A percent sign that is part of the format, not of words in it. */
const showsPercent = (format: string | undefined): boolean =>
  format !== undefined && format.replace(/"[^"]*"|\\./g, '').includes('%')

/** A formula counts by its stored result; rich text by its letters; a date loses its time of day. */
function toCell(value: ExcelJS.CellValue, format: string | undefined, shiftDays = 0): Cell {
  if (value === null || value === undefined) return null
  if (value instanceof Date)
    return Number.isNaN(value.getTime())
      ? { error: '#VALUE!' }
      : { date: new Date(value.getTime() + shiftDays * 86_400_000).toISOString().slice(0, 10) }
  if (typeof value === 'number')
    return showsPercent(format) ? { fraction: sheetNumber(value) } : sheetNumber(value)
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
