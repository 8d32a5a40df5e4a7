import type { Cell } from '#core/sheet/cell.ts'
import { columnOfLetters } from '#core/sheet/header.ts'
import type { MergedCells } from '#core/sheet/header.ts'
import { parseRange } from '#core/sheet/range.ts'
import { serialDate } from '#core/sheet/serial-date.ts'
import type { DateSystem } from '#core/sheet/serial-date.ts'
import { ZipPackage } from '../zip-package.ts'
import { RowCollector, sheetNumber, SheetFault } from './book.ts'
import type { Book, BookTable, NamedRange } from './book.ts'
import { readPart } from './xml-parts.ts'
import type { Attributes, PartReader } from './xml-parts.ts'

// SpreadsheetML (ECMA-376 part 1, 18), read as it is unpacked: fifty thousand rows cost no more memory than their cells.

export const WORKBOOK_LIMITS = { part: 200_000_000, whole: 400_000_000, parts: 3000 } as const

/** The visible sheets of an XLSX workbook. */
export async function readXlsx(bytes: Uint8Array): Promise<Book> {
  const zip = await ZipPackage.open(bytes, WORKBOOK_LIMITS, 'workbook')
  const book = await readWorkbook(zip)
  const visible = book.sheets.filter(({ state }) => state === undefined || state === 'visible')
  if (visible.length === 0) throw new SheetFault('The workbook has no visible sheet.')
  const strings = await sharedStrings(zip)
  const formats = await cellFormats(zip)
  const tables: BookTable[] = []
  for (const { name, part } of visible) {
    const reading = new SheetReading(strings, formats, book.system)
    // A sheet of a kind that has no cells, such as a chart alone, has no part that is read.
    if (part.includes('worksheets/') && (await readPart(zip, part, reading)))
      tables.push({ name, rows: reading.collector.rows, joined: reading.joined })
  }
  if (tables.length === 0) throw new SheetFault('The workbook has no sheet with cells.')
  return { kind: 'xlsx', tables, names: book.names, delimiter: null, encoding: null }
}

interface Workbook {
  readonly sheets: readonly {
    readonly name: string
    readonly state: string | undefined
    readonly part: string
  }[]
  readonly names: readonly NamedRange[]
  readonly system: DateSystem
}

async function readWorkbook(zip: ZipPackage): Promise<Workbook> {
  const targets = new Map<string, string>()
  await readPart(zip, 'xl/_rels/workbook.xml.rels', {
    open: (name, at) => {
      if (name === 'Relationship') targets.set(at['Id'] ?? '', partName(at['Target'] ?? ''))
    },
  })
  const sheets: { name: string; state: string | undefined; part: string }[] = []
  const names: NamedRange[] = []
  let system: DateSystem = 1900
  let defining: Attributes | null = null
  let target = ''
  const found = await readPart(zip, 'xl/workbook.xml', {
    open: (name, at) => {
      if (name === 'workbookPr' && /^(1|true)$/.test(at['date1904'] ?? '')) system = 1904
      if (name === 'sheet')
        sheets.push({
          name: at['name'] ?? 'Sheet',
          state: at['state'],
          part: targets.get(relationOf(at)) ?? '',
        })
      if (name === 'definedName') [defining, target] = [at, '']
    },
    text: (text) => {
      if (defining) target += text
    },
    close: (name) => {
      if (name !== 'definedName' || !defining) return
      const range = definedRange(defining, target)
      if (range) names.push(range)
      defining = null
    },
  })
  if (!found)
    throw new SheetFault('The workbook cannot be opened: the file is damaged or is not a spreadsheet.')
  return { sheets, names, system }
}

const relationOf = (at: Attributes): string =>
  Object.entries(at).find(([name]) => name.endsWith(':id'))?.[1] ?? ''

const partName = (target: string): string =>
  target.startsWith('/') ? target.slice(1) : `xl/${target.replace(/^\.\//, '')}`

/** A name for a range (18.2.5); those the program keeps for itself begin with `_xlnm`. */
function definedRange(at: Attributes, target: string): NamedRange | null {
  const name = at['name'] ?? ''
  const found = /^(?:'((?:[^']|'')+)'|([^'!]+))!(\$?[A-Z]+\$?\d*:\$?[A-Z]+\$?\d*)$/.exec(target.trim())
  if (!name || name.startsWith('_xlnm') || !found || /^(1|true)$/.test(at['hidden'] ?? '')) return null
  return {
    name,
    table: (found[1] ?? found[2]!).replaceAll("''", "'"),
    range: found[3]!.replaceAll('$', ''),
  }
}

/** The workbook's texts by their places (18.4); of rich text the letters, without how they are pronounced. */
async function sharedStrings(zip: ZipPackage): Promise<readonly string[]> {
  const strings: string[] = []
  const text = new TextOf('si', (whole) => strings.push(whole))
  await readPart(zip, 'xl/sharedStrings.xml', text)
  return strings
}

/** Gathers the `t` elements inside of an element. */
class TextOf implements PartReader {
  private depth = 0
  private inText = false
  private spoken = 0
  private whole = ''

  constructor(
    private readonly element: string,
    private readonly done: (whole: string) => void,
  ) {}

  open(name: string): void {
    if (name === this.element) {
      this.depth++
      this.whole = ''
    } else if (name === 'rPh') this.spoken++
    else if (name === 't' && this.depth > 0 && this.spoken === 0) this.inText = true
  }

  text(text: string): void {
    if (this.inText) this.whole += text
  }

  close(name: string): void {
    if (name === 't') this.inText = false
    else if (name === 'rPh') this.spoken--
    else if (name === this.element) {
      this.depth--
      this.done(unescaped(this.whole))
    }
  }
}

/** `_x000D_` stands for the character of that code (22.9.2.19, ST_Xstring). */
const unescaped = (text: string): string =>
  text.includes('_x')
    ? text.replace(/_x([0-9A-Fa-f]{4})_/g, (_, code: string) => String.fromCharCode(parseInt(code, 16)))
    : text

type Shown = 'number' | 'date' | 'percent'

/** How the cells of each format (18.8.10) show a number. */
async function cellFormats(zip: ZipPackage): Promise<readonly Shown[]> {
  const codes = new Map<number, string>()
  const formats: Shown[] = []
  let inCells = false
  await readPart(zip, 'xl/styles.xml', {
    open: (name, at) => {
      if (name === 'numFmt') codes.set(Number(at['numFmtId']), at['formatCode'] ?? '')
      else if (name === 'cellXfs') inCells = true
      else if (name === 'xf' && inCells) formats.push(shownBy(Number(at['numFmtId'] ?? 0), codes))
    },
    close: (name) => {
      if (name === 'cellXfs') inCells = false
    },
  })
  return formats
}

/** Formats without a code of their own that are dates (18.8.30; those from 27 on in East Asian editions). */
const isOwnDate = (id: number): boolean =>
  (id >= 14 && id <= 17) || id === 22 || (id >= 27 && id <= 36) || (id >= 50 && id <= 58)

function shownBy(id: number, codes: ReadonlyMap<number, string>): Shown {
  const code = codes.get(id)
  if (code === undefined) return isOwnDate(id) ? 'date' : id === 9 || id === 10 ? 'percent' : 'number'
  // Words in quotes, escaped signs, fill and colours are no part of how the number is read.
  const bare = code.split(';')[0]!.replace(/"[^"]*"|\\.|_.|\*.|\[[^\]]*\]/g, '')
  if (/general/i.test(bare)) return 'number'
  if (/[yd]/i.test(bare) || (/m/i.test(bare) && !/[hs]/i.test(bare))) return 'date'
  return bare.includes('%') ? 'percent' : 'number'
}

class SheetReading implements PartReader {
  readonly collector = new RowCollector()
  readonly joined: MergedCells[] = []
  private readonly columns = new Map<string, number>()
  private readonly dates = new Map<number, string | null>()
  private row = -1
  private column = -1
  private cells: Cell[] = []
  private type = 'n'
  private format = 0
  private value = ''
  private reading: 'value' | 'text' | null = null

  constructor(
    private readonly strings: readonly string[],
    private readonly formats: readonly Shown[],
    private readonly system: DateSystem,
  ) {}

  open(name: string, at: Attributes): void {
    switch (name) {
      case 'row':
        this.row = at['r'] === undefined ? this.row + 1 : Number(at['r']) - 1
        this.column = -1
        this.cells = []
        return
      case 'c':
        this.column = at['r'] === undefined ? this.column + 1 : this.columnOf(at['r'])
        this.type = at['t'] ?? 'n'
        this.format = Number(at['s'] ?? 0)
        this.value = ''
        return
      case 'v':
        this.reading = 'value'
        return
      case 't':
        if (this.type === 'inlineStr') this.reading = 'text'
        return
      case 'mergeCell':
        this.join(at['ref'] ?? '')
    }
  }

  text(text: string): void {
    if (this.reading) this.value += text
  }

  close(name: string): void {
    if (name === 'v' || name === 't') this.reading = null
    else if (name === 'c') {
      const cell = this.cell()
      if (cell === null) return
      while (this.cells.length < this.column) this.cells.push(null)
      this.cells[this.column] = cell
    } else if (name === 'row') this.collector.put(this.row, this.cells)
  }

  /** A formula counts by its stored result; a date loses its time of day. */
  private cell(): Cell {
    if (this.value === '') return null
    switch (this.type) {
      case 's':
        return this.strings[Number(this.value)] || null
      case 'str':
      case 'inlineStr':
        return unescaped(this.value)
      case 'b':
        return this.value === '1' || this.value === 'true'
      case 'e':
        return { error: this.value }
      case 'd':
        return { date: this.value.slice(0, 10) }
      default:
        return this.number(Number(this.value))
    }
  }

  private number(value: number): Cell {
    if (!Number.isFinite(value)) return { error: '#NUM!' }
    const shown = this.formats[this.format] ?? 'number'
    if (shown === 'percent') return { fraction: sheetNumber(value) }
    const date = shown === 'date' ? this.date(value) : null
    return date === null ? sheetNumber(value) : { date }
  }

  /** Rows name their columns over and over. */
  private columnOf(place: string): number {
    const letters = place.slice(0, place.search(/\d|$/))
    const column = this.columns.get(letters) ?? columnOfLetters(letters)
    this.columns.set(letters, column)
    return column
  }

  private date(serial: number): string | null {
    const known = this.dates.get(serial)
    if (known !== undefined) return known
    const date = serialDate(serial, this.system)?.toString() ?? null
    this.dates.set(serial, date)
    return date
  }

  private join(text: string): void {
    const range = parseRange(text)
    if (range)
      this.joined.push({
        row: range.top,
        column: range.left,
        rows: range.bottom - range.top + 1,
        columns: range.right - range.left + 1,
      })
  }
}
