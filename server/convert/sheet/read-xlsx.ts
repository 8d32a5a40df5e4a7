import type { Cell } from '#core/outline/cell.ts'
import { columnOfLetters, type MergedCells } from '#core/sheet/header.ts'
import { parseRange, rangeText } from '#core/sheet/range.ts'
import type { DateSystem } from '#core/sheet/serial-date.ts'
import type { Book, BookTable, NamedRange } from '#core/sheet/book.ts'
import { partBeside, relationsPart, ZipPackage } from '../zip-package.ts'
import { CellText, checkColumn, RowCollector, SheetFault, sheetNumber, whole } from './book.ts'
import { SHEET_LIMITS } from './sheet-limits.ts'
import { type Attributes, type PartReader, readPart, type Shortcut } from './xml-parts.ts'
import { cellFormats, type Format } from './xlsx-formats.ts'
import { dayAndTime, hours, isoCell, type Moment, momentOf, tenths } from './xlsx-moments.ts'

// SpreadsheetML (ECMA-376 part 1, 18), read as it is unpacked: fifty thousand rows cost no more memory than their cells.

/** Bytes of one part and of all, unpacked, and how many parts there may be. */
export const WORKBOOK_LIMITS = { part: 200_000_000, whole: 400_000_000, parts: 3000 } as const

/** The visible sheets of an XLSX workbook. */
export async function readXlsx(bytes: Uint8Array): Promise<Book> {
  const zip = await ZipPackage.open(bytes, WORKBOOK_LIMITS, 'workbook')
  const main = await mainPart(zip)
  const book = await readWorkbook(zip, main)
  const visible = book.sheets.filter(({ state }) => state === undefined || state === 'visible')
  if (visible.length === 0) throw new SheetFault('The workbook has no visible sheet.')
  const strings = await sharedStrings(zip, book.strings)
  const formats = await cellFormats(zip, book.styles)
  const tables: BookTable[] = []
  const names = [...book.names]
  const cells = { taken: 0 }
  for (const { name, part, hasCells } of visible) {
    const reading = new SheetReading(strings, formats, book.system, cells)
    // A sheet of a kind that has no cells, such as a chart alone, has no part that is read.
    if (!hasCells || !(await readPart(zip, part, reading, false, reading.cellsAlone))) continue
    tables.push({ name, rows: reading.collector.rows, joined: reading.joined, hidden: reading.hidden })
    names.push(...(await tablesOf(zip, part, name)))
  }
  if (tables.length === 0) throw new SheetFault('The workbook has no sheet with cells.')
  return { kind: 'xlsx', tables, names, delimiter: null, encoding: null }
}

interface Workbook {
  readonly sheets: readonly {
    readonly name: string
    readonly state: string | undefined
    readonly part: string
    readonly hasCells: boolean
  }[]
  readonly names: readonly NamedRange[]
  readonly system: DateSystem
  /** Parts of the texts and of the styles, whether it has them or not. */
  readonly strings: string
  readonly styles: string
}

interface Relation {
  readonly id: string
  /** The last word of its kind: `worksheet`, `styles`. Both editions of the standard name the same with other beginnings. */
  readonly kind: string
  readonly target: string
}

/** What a part is related to (ECMA-376 part 2, 9.3); of the package itself where the part is empty. Parts may lie anywhere. */
async function relationsOf(zip: ZipPackage, part: string): Promise<readonly Relation[]> {
  const found: Relation[] = []
  await readPart(zip, relationsPart(part), {
    open: (name, { Id = '', Type = '', Target = '', TargetMode }) => {
      if (name !== 'Relationship' || TargetMode === 'External' || found.length >= MOST_RELATIONS) return
      found.push({
        id: Id,
        kind: Type.slice(Type.lastIndexOf('/') + 1),
        target: zip.named(partBeside(part, Target)),
      })
    },
  })
  return found
}

const MOST_RELATIONS = 5000

/** The workbook's part, which the package names; programs that forget to name it call it by its usual name. */
const mainPart = async (zip: ZipPackage): Promise<string> =>
  (await relationsOf(zip, '')).find(({ kind }) => kind === 'officeDocument')?.target ??
  zip.named('xl/workbook.xml')

async function readWorkbook(zip: ZipPackage, main: string): Promise<Workbook> {
  const relations = await relationsOf(zip, main)
  const byId = new Map(relations.map((each) => [each.id, each]))
  const partOf = (wanted: string) =>
    relations.find(({ kind }) => kind === wanted)?.target ?? zip.named(partBeside(main, `${wanted}.xml`))
  const sheets: { name: string; state: string | undefined; part: string; hasCells: boolean }[] = []
  const names: NamedRange[] = []
  let system: DateSystem = 1900
  let defining: Attributes | null = null
  let target = ''
  const found = await readPart(zip, main, {
    open: (name, at) => {
      if (name === 'workbookPr' && /^(1|true)$/.test(at['date1904'] ?? '')) system = 1904
      if (name === 'sheet')
        sheets.push({
          name: at['name'] ?? 'Sheet',
          state: at['state'],
          part: byId.get(relationOf(at))?.target ?? '',
          // Some programs leave the kind out.
          hasCells: ['worksheet', ''].includes(byId.get(relationOf(at))?.kind ?? 'none'),
        })
      if (name === 'definedName') [defining, target] = [at, '']
    },
    text: (text) => {
      if (defining && target.length <= LONGEST_NAME) target += text
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
  return { sheets, names, system, strings: partOf('sharedStrings'), styles: partOf('styles') }
}

/** Tables that a sheet defines (18.5), each as a named range. */
async function tablesOf(zip: ZipPackage, part: string, sheet: string): Promise<readonly NamedRange[]> {
  const tables = (await relationsOf(zip, part)).filter(({ kind }) => kind === 'table').slice(0, MOST_TABLES)
  const found: NamedRange[] = []
  for (const { target } of tables)
    await readPart(zip, target, {
      open: (name, attributes) => {
        const range = parseRange(attributes['ref'] ?? '')
        const called = attributes['displayName'] ?? attributes['name'] ?? ''
        if (name === 'table' && range && called && called.length <= 200)
          found.push({ name: called, table: sheet, range: rangeText(range) })
      },
    })
  return found
}

const MOST_TABLES = 200

const relationOf = (at: Attributes): string =>
  Object.entries(at).find(([name]) => name.endsWith(':id'))?.[1] ?? ''

/** Characters of a defined name and of what it stands for, where that is a range. */
const LONGEST_NAME = 300

/** A name for a range (18.2.5); those the program keeps for itself begin with `_xlnm`. */
function definedRange(at: Attributes, target: string): NamedRange | null {
  const name = at['name'] ?? ''
  if (target.length > LONGEST_NAME || name.length > LONGEST_NAME) return null
  const found = /^(?:'((?:[^']|'')+)'|([^'!]+))!(\$?[A-Z]+\$?\d*:\$?[A-Z]+\$?\d*)$/.exec(target.trim())
  if (!name || name.startsWith('_xlnm') || !found || /^(1|true)$/.test(at['hidden'] ?? '')) return null
  return {
    name,
    table: (found[1] ?? found[2]!).replaceAll("''", "'"),
    range: found[3]!.replaceAll('$', ''),
  }
}

/** The workbook's texts by their places (18.4); of rich text the letters, without how they are pronounced. */
async function sharedStrings(zip: ZipPackage, part: string): Promise<readonly string[]> {
  const strings: string[] = []
  let characters = 0
  const text = new TextOf('si', (whole) => {
    characters += whole.length
    if (characters > MOST_CHARACTERS || strings.length >= SHEET_LIMITS.cells)
      throw new SheetFault('The workbook has more text in it than any that is taken here.')
    strings.push(whole)
  })
  await readPart(zip, part, text)
  return strings
}

/** Characters of all different texts of a workbook together. */
const MOST_CHARACTERS = 60_000_000

/** Gathers the `t` elements inside of an element. */
class TextOf implements PartReader {
  private depth = 0
  private inText = false
  private spoken = 0
  private whole = new CellText()

  constructor(
    private readonly element: string,
    private readonly done: (whole: string) => void,
  ) {}

  open(name: string): void {
    if (name === this.element) {
      this.depth++
      this.whole = new CellText()
    } else if (name === 'rPh') this.spoken++
    else if (name === 't' && this.depth > 0 && this.spoken === 0) this.inText = true
  }

  text(text: string): void {
    if (this.inText) this.whole.add(text)
  }

  close(name: string): void {
    if (name === 't') this.inText = false
    else if (name === 'rPh') this.spoken--
    else if (name === this.element) {
      this.depth--
      this.done(unescaped(this.whole.text))
    }
  }
}

/** `_x000D_` stands for the character of that code (22.9.2.19, ST_Xstring). */
const unescaped = (text: string): string =>
  text.includes('_x')
    ? text.replace(/_x([0-9A-Fa-f]{4})_/g, (_, code: string) => String.fromCharCode(parseInt(code, 16)))
    : text

class SheetReading implements PartReader {
  readonly collector: RowCollector
  readonly hidden = new Set<number>()
  readonly joined: MergedCells[] = []
  private readonly columns = new Map<string, number>()
  private readonly dates = new Map<number, Moment | null>()
  private row = -1
  private column = -1
  private cells: Cell[] = []
  private type = 'n'
  private format = 0
  private value: Pick<CellText, 'text'> = new CellText()
  private reading: 'value' | 'text' | null = null

  constructor(
    private readonly strings: readonly string[],
    private readonly formats: readonly Format[],
    private readonly system: DateSystem,
    cells: { taken: number },
  ) {
    this.collector = new RowCollector(cells)
  }

  /**
   * Cells as almost all programs write them, with nothing but a value: a workbook is made of millions of these, and the
   * parser takes four times as long. Anything else, and all around them, is the parser's.
   */
  readonly cellsAlone: Shortcut = {
    end: '</row>',
    take: (text, rest) => {
      const cell =
        /<c r="([A-Z]{1,3})\d{1,7}"(?: s="(\d{1,6})")?(?: t="(s|n|b|e|str)")?>\s*<v>([^<&]*)<\/v>\s*<\/c>/g
      let from = 0
      for (let found = cell.exec(text); found; found = cell.exec(text)) {
        if (found.index > from) rest(text.slice(from, found.index))
        from = cell.lastIndex
        this.column = this.columns.get(found[1]!) ?? this.columnOf(found[1]!)
        this.type = found[3] ?? 'n'
        this.format = found[2] === undefined ? 0 : Number(found[2])
        this.value = { text: found[4]! }
        this.endCell()
      }
      if (from < text.length) rest(text.slice(from))
    },
  }

  open(name: string, at: Attributes): void {
    switch (name) {
      case 'row':
        this.row = whole(at['r'], 1, 20_000_000, this.row + 2) - 1
        this.column = -1
        this.cells = []
        if (/^(1|true)$/.test(at['hidden'] ?? '')) this.hidden.add(this.row)
        return
      case 'c':
        this.column = at['r'] === undefined ? this.column + 1 : this.columnOf(at['r'])
        this.type = at['t'] ?? 'n'
        this.format = whole(at['s'], 0, 1_000_000, 0)
        this.value = new CellText()
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
    if (this.reading) (this.value as CellText).add(text)
  }

  close(name: string): void {
    if (name === 'v' || name === 't') this.reading = null
    else if (name === 'c') this.endCell()
    else if (name === 'row') this.collector.put(this.row, this.cells)
  }

  private endCell(): void {
    const cell = this.cell()
    if (cell === null) return
    checkColumn(this.row, this.column)
    while (this.cells.length < this.column) this.cells.push(null)
    this.cells[this.column] = cell
  }

  /** A formula counts by its stored result. */
  private cell(): Cell {
    const value = this.value.text
    if (value === '') return null
    switch (this.type) {
      case 's':
        return this.strings[whole(value, 0, SHEET_LIMITS.cells, -1)] || null
      case 'str':
      case 'inlineStr':
        return unescaped(value)
      case 'b':
        return value === '1' || value === 'true'
      case 'e':
        return { error: value.slice(0, 20) }
      case 'd':
        return isoCell(value)
      default:
        return this.number(Number(value))
    }
  }

  private number(value: number): Cell {
    if (!Number.isFinite(value)) return { error: '#NUM!' }
    const format = this.formats[this.format] ?? 'number'
    const shown = typeof format === 'function' ? format(value) : format
    if (shown === 'percent') return { fraction: sheetNumber(value) }
    if (shown === 'number') return sheetNumber(value)
    if (typeof shown === 'object')
      return Number.isInteger(value) && value >= 0
        ? String(value).padStart(shown.digits, '0')
        : sheetNumber(value)
    if (shown === 'time to tenths') return tenths(value) ?? sheetNumber(value)
    if (shown === 'elapsed' && value >= 1) return hours(value)
    return this.moment(value, shown === 'elapsed' ? 'time' : shown) ?? sheetNumber(value)
  }

  /** Rows name their columns over and over. */
  private columnOf(place: string): number {
    const letters = place.slice(0, 4).split(/\d/)[0]!
    if (letters.length > 3)
      throw new SheetFault(`A cell says it stands at “${place.slice(0, 20)}”: there is no such place.`)
    const column = this.columns.get(letters) ?? columnOfLetters(letters)
    this.columns.set(letters, column)
    return column
  }

  /** A serial number as what it is shown as; a whole day shown with a time is the day. */
  private moment(serial: number, shown: 'date' | 'time' | 'date and time'): Cell | null {
    const known = this.dates.get(serial)
    const found = known === undefined ? momentOf(serial, this.system) : known
    if (known === undefined) this.dates.set(serial, found)
    if (!found) return null
    if (shown === 'time') return found.day === 0 ? { time: found.time } : dayAndTime(found)
    return dayAndTime(found)
  }

  private join(text: string): void {
    const range = parseRange(text.slice(0, 60))
    if (range && this.joined.length < SHEET_LIMITS.joined)
      this.joined.push({
        row: range.top,
        column: range.left,
        rows: range.bottom - range.top + 1,
        columns: range.right - range.left + 1,
      })
  }
}
