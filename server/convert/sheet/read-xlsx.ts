import { readMoment, readTime } from '#core/outline/read-date.ts'
import type { Cell } from '#core/outline/cell.ts'
import { columnOfLetters, type MergedCells } from '#core/sheet/header.ts'
import { parseRange, rangeText } from '#core/sheet/range.ts'
import { type DateSystem, serialDate } from '#core/sheet/serial-date.ts'
import type { Book, BookTable, NamedRange } from '#core/sheet/book.ts'
import { partBeside, relationsPart, ZipPackage } from '../zip-package.ts'
import { CellText, checkColumn, RowCollector, sheetNumber, SheetFault, whole } from './book.ts'
import { SHEET_LIMITS } from './sheet-limits.ts'
import { type Attributes, type PartReader, readPart, type Shortcut } from './xml-parts.ts'

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

/** A whole number with leading zeros, such as a postcode, is shown with so many digits. */
type Shown =
  | 'number'
  | 'time to tenths'
  | 'date'
  | 'time'
  | 'elapsed'
  | 'date and time'
  | 'percent'
  | { readonly digits: number }

/** A format has 255 characters at the most (18.8.31; common practice). */
const LONGEST_FORMAT = 255

/** How the cells of each format (18.8.10) show a number: alike, or by what it is. */
type Format = Shown | ((value: number) => Shown)

async function cellFormats(zip: ZipPackage, part: string): Promise<readonly Format[]> {
  const codes = new Map<number, string>()
  const formats: Format[] = []
  let inCells = false
  await readPart(zip, part, {
    open: (name, at) => {
      if (name === 'numFmt')
        codes.set(Number(at['numFmtId']), (at['formatCode'] ?? '').slice(0, LONGEST_FORMAT))
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
  (id >= 14 && id <= 17) || (id >= 27 && id <= 36) || (id >= 50 && id <= 58)

/** Formats without a code of their own that are no dates (18.8.30). */
const OWN: ReadonlyMap<number, Shown> = new Map<number, Shown>([
  [9, 'percent'],
  [10, 'percent'],
  [18, 'time'],
  [19, 'time'],
  [20, 'time'],
  [21, 'time'],
  [22, 'date and time'],
  [45, 'time'],
  [46, 'elapsed'],
  // mm:ss.0
  [47, 'time to tenths'],
])

function shownBy(id: number, codes: ReadonlyMap<number, string>): Format {
  const code = codes.get(id)
  if (code === undefined) return OWN.get(id) ?? (isOwnDate(id) ? 'date' : 'number')
  const sections = sectionsOf(code).map((section) => ({
    holds: conditionOf(section),
    shown: sectionShown(section),
  }))
  const numeric = sections.slice(0, 3)
  if (numeric.every(({ holds }) => holds === null)) {
    const [first, negative = first, zero = first] = numeric.map(({ shown }) => shown)
    if (negative === first && zero === first) return first!
    return (value) => (value > 0 ? first! : value < 0 ? negative! : zero!)
  }
  return (value) =>
    (numeric.find(({ holds }) => holds?.(value)) ?? numeric.find(({ holds }) => holds === null))?.shown ??
    'number'
}

/** The sections of a format code (18.8.31): of positive numbers, negative ones, zero, and text. */
function sectionsOf(code: string): readonly string[] {
  const sections: string[] = ['']
  for (const part of code.match(/"[^"]*"?|\\.|[^"\\;]+|;|\\/g) ?? [])
    if (part === ';') sections.push('')
    else sections[sections.length - 1] += part
  return sections
}

/** The condition that a section names, such as `[=0]`. */
function conditionOf(section: string): ((value: number) => boolean) | null {
  const found = /\[(<=|>=|<>|<|>|=)\s*(-?\d+(?:\.\d+)?)\]/.exec(section)
  if (!found) return null
  const limit = Number(found[2])
  switch (found[1]) {
    case '=':
      return (value) => value === limit
    case '<>':
      return (value) => value !== limit
    case '<':
      return (value) => value < limit
    case '>':
      return (value) => value > limit
    case '<=':
      return (value) => value <= limit
    default:
      return (value) => value >= limit
  }
}

/** How one section shows a number. */
function sectionShown(code: string): Shown {
  // Words in quotes, escaped signs, fill and colours are no part of how the number is read.
  // eslint-disable-next-line regexp/no-super-linear-move -- of 255 characters
  const bare = code.replace(/"[^"]*"|\\.|_.|\*.|\[[^\]]*\]/g, '')
  if (/general/i.test(bare)) return 'number'
  // An elapsed time goes on past a day: up to one it is a time of day, past that so many hours, as the sheet shows it.
  if (/\[(h+|m+|s+)\]/i.test(code)) return 'elapsed'
  const clock = /[hs]/i.test(bare)
  const days = /[yd]/i.test(bare) || (/m/i.test(bare) && !clock)
  if (clock) return days ? 'date and time' : /s\.0/i.test(bare) ? 'time to tenths' : 'time'
  if (days) return 'date'
  if (/^0{2,15}$/.test(bare.trim())) return { digits: bare.trim().length }
  return bare.includes('%') ? 'percent' : 'number'
}

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

/** A time of day that is shown to tenths of a second or finer, to the millisecond. Null: it is no time of day. */
function tenths(serial: number): Cell | null {
  if (serial < 0 || serial >= 1) return null
  return { time: clockOf(Math.round(serial * 86_400_000) % 86_400_000) }
}

/** A time of day of its milliseconds, with as much of it as there is: 06:30, 06:30:15, 06:30:15.5. */
function clockOf(milliseconds: number): string {
  const pad = (part: number) => String(part).padStart(2, '0')
  const minutes = Math.floor(milliseconds / 60_000)
  const clock = `${pad(Math.floor(minutes / 60))}:${pad(minutes % 60)}`
  const seconds = Math.floor(milliseconds / 1000) % 60
  const rest = milliseconds % 1000
  if (rest) return `${clock}:${pad(seconds)}${String(rest / 1000).slice(1)}`
  return seconds ? `${clock}:${pad(seconds)}` : clock
}

/** Days as hours and minutes: 1.5 is 36:00. */
function hours(days: number): string {
  const minutes = Math.round(days * 1440)
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
}

interface Moment {
  /** Whole days of the serial number: none is a time of day alone. */
  readonly day: number
  readonly date: string | null
  readonly time: string
}

/** Day and time of a serial number, the time to the second, as it is kept in a binary fraction of a day. */
function momentOf(serial: number, system: DateSystem): Moment | null {
  const seconds = Math.round((serial - Math.floor(serial)) * 86_400)
  const day = Math.floor(serial) + (seconds === 86_400 ? 1 : 0)
  const date = serialDate(day, system)?.toString() ?? null
  if (serial < 0 || (date === null && day !== 0)) return null
  return { day, date, time: clockOf((seconds % 86_400) * 1000) }
}

const dayAndTime = ({ date, time }: Moment): Cell | null =>
  date === null ? null : time === '00:00' ? { date } : { dateTime: `${date}T${time}` }

/** A cell of type `d`: ISO 8601 (18.18.11). */
function isoCell(text: string): Cell {
  const read = readMoment(text, null)
  if (read.ok)
    return read.time === null || read.time === '00:00'
      ? { date: read.date }
      : { dateTime: `${read.date}T${read.time}` }
  const time = readTime(text)
  return time === null ? text : { time }
}
