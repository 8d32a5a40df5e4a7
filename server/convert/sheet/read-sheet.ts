import { findHeader } from '#core/sheet/header.ts'
import { cropJoined, cropRows, parseRange, type Range } from '#core/sheet/range.ts'
import type { Said } from '#core/sheet/columns.ts'
import { findTable, type TableFound } from '#core/sheet/table.ts'
import { SheetFault } from './book.ts'
import { startsWith } from './encoding.ts'
import { readJson } from './read-json.ts'
import { readOds } from './read-ods.ts'
import { readText } from './read-text.ts'
import { ASKED_NOTHING, type Book, type BookTable, type NamedRange, type Reading } from '#core/sheet/book.ts'
import { readXlsx } from './read-xlsx.ts'

/** A file's table, found and typed, with what else there is to choose from in it. */
export interface SheetRead extends TableFound {
  readonly kind: Book['kind']
  readonly tables: readonly { readonly name: string; readonly rows: number }[]
  readonly names: readonly NamedRange[]
  /** How it was read, guesses included. */
  readonly reading: Reading
}
/** A file’s table, or what is wrong with the file. */
export type ReadSheet = SheetRead | { readonly ok: false; readonly problem: string }

/** A sheet as a thread hands it over: its rows (DataRow) as JSON in UTF-8, some at a time. */
export type PackedSheet =
  | (Omit<SheetRead, 'rows'> & { readonly rowCount: number; readonly packs: readonly Uint8Array[] })
  | { readonly ok: false; readonly problem: string }

/** Reads a CSV, XLSX, ODS or JSON file into a typed table. What is wrong with the file is told; nothing throws. */
export async function readSheetFile(
  name: string,
  bytes: Uint8Array,
  reading: Reading = ASKED_NOTHING,
  said: Readonly<Record<string, Said>> = {},
): Promise<ReadSheet> {
  try {
    return tableOf(await openBook(name, bytes, reading), reading, said)
  } catch (error) {
    if (error instanceof SheetFault) return { ok: false, problem: error.message }
    throw error
  }
}

/** Opens a file of tables by what it is, whatever its name says. Throws SheetFault. */
export async function openBook(
  name: string,
  bytes: Uint8Array,
  reading: Reading = ASKED_NOTHING,
): Promise<Book> {
  if (bytes.length === 0) throw new SheetFault('The file is empty.')
  if (startsWith(bytes, 0xd0, 0xcf, 0x11, 0xe0))
    throw new SheetFault(
      'This is an old XLS workbook or one protected by a password. Save it as XLSX without a password.',
    )
  const zip = startsWith(bytes, 0x50, 0x4b, 0x03, 0x04)
  if (/\.(xlsx|ods)$/i.test(name) && !zip)
    throw new SheetFault(
      `The file is named ${/\.\w+$/.exec(name)![0].toLowerCase()}, but it is not a workbook. If it holds text with commas, name it .csv.`,
    )
  // An OpenDocument file begins with its media type, uncompressed (OpenDocument 1.3, part 2, 3.3).
  if (zip) return isOpenDocument(bytes) || /\.ods$/i.test(name) ? readOds(bytes) : readXlsx(bytes)
  const first = new TextDecoder()
    .decode(bytes.subarray(0, 200))
    .replace(/^\uFEFF/, '')
    .trimStart()[0]
  return /\.json$/i.test(name) || ((first === '[' || first === '{') && !/\.(csv|tsv|txt)$/i.test(name))
    ? readJson(name, bytes)
    : readText(name, bytes, reading)
}

const isOpenDocument = (bytes: Uint8Array) =>
  new TextDecoder('latin1').decode(bytes.subarray(30, 120)).includes('opendocument')

function tableOf(book: Book, reading: Reading, said: Readonly<Record<string, Said>>): ReadSheet {
  const named = book.names.find(({ name }) => name === reading.range)
  const table = chosenTable(book, named?.table ?? reading.table)
  const range = rangeOf(reading, named)
  if (reading.range && !range)
    throw new SheetFault(`“${reading.range}” is no range: write it as A3:F200, or choose a named one.`)
  const rows = range ? cropRows(table.rows, range) : table.rows
  if (rows.length === 0)
    throw new SheetFault(`There is nothing in ${range ? 'this range' : `the sheet “${table.name}”`}.`)
  const found = findTable(rows, {
    headerRow: reading.headerRow,
    joined: range ? cropJoined(table.joined, range) : table.joined,
    hidden: range
      ? new Set([...(table.hidden ?? [])].map((row) => row - range.top))
      : (table.hidden ?? new Set()),
    firstRow: (range?.top ?? 0) + 1,
    said,
  })
  if (!found.ok) return found
  return {
    ...found,
    notes: [...(book.notes ?? []), ...found.notes],
    kind: book.kind,
    tables: book.tables.map(({ name, rows: all }) => ({ name, rows: all.length })),
    names: book.names,
    reading: {
      table: table.name,
      range: reading.range,
      headerRow: reading.headerRow,
      delimiter: book.delimiter,
      encoding: book.encoding,
    },
  }
}

/** The table asked for; else the first whose columns have names, unless another has far more in it. */
function chosenTable(book: Book, asked: string | null): BookTable {
  if (asked !== null) {
    const found = book.tables.find(({ name }) => name === asked)
    if (!found) throw new SheetFault(`There is no sheet “${asked}” in the file.`)
    return found
  }
  const filled = book.tables.filter(({ rows }) => rows.length > 0)
  if (filled.length === 0) throw new SheetFault('There is nothing in the file.')
  const named = filled.filter(({ rows, joined }) => {
    const header = findHeader(rows, joined)
    return header.ok && header.lines > 0 && rows.length > header.row + header.lines
  })
  return (named.length ? named : filled).reduce((best, each) =>
    each.rows.length > best.rows.length * 3 ? each : best,
  )
}

const rangeOf = (reading: Reading, named: NamedRange | undefined): Range | null =>
  reading.range === null ? null : parseRange(named?.range ?? reading.range)
