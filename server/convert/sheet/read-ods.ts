import { isoTime, parseTime } from '#core/calendar/times.ts'
import type { Cell } from '#core/outline/cell.ts'
import type { MergedCells } from '#core/sheet/header.ts'
import type { Book, BookTable, NamedRange } from '#core/sheet/book.ts'
import { ZipPackage } from '../zip-package.ts'
import { CellText, checkColumn, RowCollector, sheetNumber, SheetFault, whole } from './book.ts'
import { SHEET_LIMITS } from './sheet-limits.ts'
import { WORKBOOK_LIMITS } from './read-xlsx.ts'
import { type Attributes, type PartReader, readPart } from './xml-parts.ts'

/** The sheets of an ODS spreadsheet (OASIS OpenDocument 1.3, part 3, 9). */
export async function readOds(bytes: Uint8Array): Promise<Book> {
  const zip = await ZipPackage.open(bytes, WORKBOOK_LIMITS, 'spreadsheet')
  const manifest = new TextDecoder().decode((await zip.bytes('META-INF/manifest.xml')) ?? new Uint8Array())
  if (/encryption-data/.test(manifest))
    throw new SheetFault('The spreadsheet is protected by a password. Save it without one.')
  const reading = new OdsReading()
  const found = await readPart(zip, 'content.xml', reading, true)
  if (!found) throw new SheetFault('The spreadsheet has no content.')
  if (reading.tables.length === 0) throw new SheetFault('The spreadsheet has no visible sheet.')
  return { kind: 'ods', tables: reading.tables, names: reading.names, delimiter: null, encoding: null }
}

/** Rows and columns a spreadsheet of this kind has at the most; a number past them is as good as them. */
const LAST = { row: 2_000_000, column: 20_000 } as const

class OdsReading implements PartReader {
  readonly tables: BookTable[] = []
  readonly names: NamedRange[] = []
  private table: {
    name: string
    collector: RowCollector
    joined: MergedCells[]
    hidden: boolean
    hiddenRows: Set<number>
  } | null = null
  /** `skipped`: empty cells since the last value. */
  private row: { cells: Cell[]; skipped: number; index: number; repeated: number; hidden: boolean } | null =
    null
  private readonly taken = { taken: 0 }
  private nextRow = 0
  private cell: Attributes | null = null
  private words = new CellText()
  private paragraphs = 0
  private depthOfNote = 0
  private readonly hiddenStyles = new Set<string>()
  private style = ''

  text(text: string): void {
    if (this.cell && this.depthOfNote === 0 && this.paragraphs) this.words.add(text)
  }

  open(name: string, at: Attributes): void {
    switch (name) {
      case 'style:style':
        this.style = at['style:name'] ?? ''
        return
      case 'style:table-properties':
        if (at['table:display'] === 'false') this.hiddenStyles.add(this.style)
        return
      case 'table:table':
        this.table = {
          name: at['table:name'] ?? 'Sheet',
          collector: new RowCollector(this.taken),
          joined: [],
          hiddenRows: new Set(),
          hidden: this.hiddenStyles.has(at['table:style-name'] ?? ''),
        }
        this.nextRow = 0
        return
      case 'table:table-row':
        this.row = {
          cells: [],
          skipped: 0,
          index: this.nextRow,
          repeated: whole(at['table:number-rows-repeated'], 1, LAST.row, 1),
          hidden: (at['table:visibility'] ?? 'visible') !== 'visible',
        }
        return
      case 'table:table-cell':
      case 'table:covered-table-cell':
        this.cell = at
        this.words = new CellText()
        this.paragraphs = 0
        return
      case 'office:annotation':
        this.depthOfNote++
        return
      case 'text:p':
        if (this.cell && this.depthOfNote === 0 && this.paragraphs++ > 0) this.words.add('\n')
        return
      case 'text:s':
        this.add(' '.repeat(whole(at['text:c'], 1, 1000, 1)))
        return
      case 'text:line-break':
        this.add('\n')
        return
      case 'text:tab':
        this.add('\t')
        return
      case 'table:named-range':
        this.name(at['table:name'], at['table:cell-range-address'])
        return
      case 'table:database-range':
        this.name(at['table:name'], at['table:target-range-address'])
    }
  }

  private add(text: string): void {
    if (this.depthOfNote === 0 && this.paragraphs) this.words.add(text)
  }

  close(name: string): void {
    if (name === 'office:annotation') this.depthOfNote--
    else if (name === 'table:table-cell' || name === 'table:covered-table-cell') this.endCell(name)
    else if (name === 'table:table-row' && this.row && this.table) {
      const { cells, index, repeated, hidden } = this.row
      if (cells.length)
        for (let i = 0; i < Math.min(repeated, SHEET_LIMITS.rows + 1); i++) {
          this.table.collector.put(index + i, cells)
          if (hidden) this.table.hiddenRows.add(index + i)
        }
      this.nextRow = Math.min(index + repeated, LAST.row)
      this.row = null
    } else if (name === 'table:table' && this.table) {
      const { name: title, collector, joined, hidden, hiddenRows } = this.table
      if (!hidden) this.tables.push({ name: title, rows: collector.rows, joined, hidden: hiddenRows })
      this.table = null
    }
  }

  private endCell(name: string): void {
    const at = this.cell!
    this.cell = null
    if (!this.row || !this.table) return
    const value = name === 'table:covered-table-cell' ? null : valueOf(at, this.words.text)
    const repeated = whole(at['table:number-columns-repeated'], 1, LAST.column, 1)
    const columns = whole(at['table:number-columns-spanned'], 1, LAST.column, 1)
    const rows = whole(at['table:number-rows-spanned'], 1, LAST.row, 1)
    const { row, table } = this
    if ((columns > 1 || rows > 1) && table.joined.length < SHEET_LIMITS.joined)
      table.joined.push({ row: row.index, column: row.cells.length + row.skipped, rows, columns })
    // Empty cells to the end of the line are left out; the row is as long as its last value.
    if (value === null) row.skipped = Math.min(row.skipped + repeated, LAST.column)
    else {
      checkColumn(row.index, row.cells.length + row.skipped + repeated - 1)
      for (; row.skipped > 0; row.skipped--) row.cells.push(null)
      for (let i = 0; i < repeated; i++) row.cells.push(value)
    }
  }

  private name(name: string | undefined, address: string | undefined): void {
    if (!name || !address || name.length > 200 || address.length > 300 || this.names.length >= 500) return
    const found =
      /^\$?(?:'((?:[^']|'')+)'|([^.']+))\.\$?([A-Z]{1,3})\$?(\d{1,7}):(?:\$?(?:'(?:[^']|'')+'|[^.']*)\.)?\$?([A-Z]{1,3})\$?(\d{1,7})$/.exec(
        address,
      )
    if (found && !name.startsWith('__Anonymous'))
      this.names.push({
        name,
        table: (found[1] ?? found[2]!).replaceAll("''", "'"),
        range: `${found[3]}${found[4]}:${found[5]}${found[6]}`,
      })
  }
}

/** A cell by its value type; a formula counts by the value that is stored with it. */
function valueOf(at: Attributes, text: string): Cell {
  if (at['calcext:value-type'] === 'error' || /^(#[A-Z/0!?]+|Err:\d{3})$/.test(text)) return { error: text }
  const value = Number(at['office:value'])
  switch (at['office:value-type']) {
    case 'float':
    case 'currency':
      return Number.isFinite(value) ? sheetNumber(value) : null
    case 'percentage':
      return Number.isFinite(value) ? { fraction: sheetNumber(value) } : null
    case 'date': {
      const [, date, time] =
        /^(\d{4}-\d{2}-\d{2})(?:T(\d{2}:\d{2}:\d{2}))?/.exec(at['office:date-value'] ?? '') ?? []
      return date ? moment(date, time) : text || null
    }
    case 'time': {
      // A length of time (XML Schema); up to a day it is a time of day.
      const [, hours, minutes, seconds] =
        /^PT(\d{1,2})H(\d{1,2})M(\d{1,2})/.exec(at['office:time-value'] ?? '') ?? []
      const read =
        hours && parseTime([hours, minutes!, seconds!].map((part) => part.padStart(2, '0')).join(':'))
      return read ? { time: isoTime(read) } : text || null
    }
    case 'boolean':
      return at['office:boolean-value'] === 'true'
    default:
      return (at['office:string-value'] ?? text) || null
  }
}

/** A day with its time of day, where it has one besides midnight. */
function moment(date: string, time: string | undefined): Cell {
  const read = time === undefined || time === '00:00:00' ? null : parseTime(time)
  return read ? { dateTime: `${date}T${isoTime(read)}` } : { date }
}
