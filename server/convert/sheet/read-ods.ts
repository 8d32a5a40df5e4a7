import type { Cell } from '#core/sheet/cell.ts'
import type { MergedCells } from '#core/sheet/header.ts'
import { ZipPackage } from '../zip-package.ts'
import { RowCollector, sheetNumber, SheetFault } from './book.ts'
import type { Book, BookTable, NamedRange } from './book.ts'
import { WORKBOOK_LIMITS } from './read-xlsx.ts'
import { readPart } from './xml-parts.ts'
import type { Attributes, PartReader } from './xml-parts.ts'

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

/** A spreadsheet says of an empty cell that it goes on to the sheet's end; so many copies of a filled one are made at most. */
const MOST_COPIES = 100_000
const MOST_ALIKE = 1000

class OdsReading implements PartReader {
  readonly tables: BookTable[] = []
  readonly names: NamedRange[] = []
  private table: { name: string; collector: RowCollector; joined: MergedCells[]; hidden: boolean } | null =
    null
  /** `skipped`: empty cells since the last value. */
  private row: { cells: Cell[]; skipped: number; index: number; repeated: number } | null = null
  private nextRow = 0
  private cell: Attributes | null = null
  private paragraphs: string[] = []
  private depthOfNote = 0
  private readonly hiddenStyles = new Set<string>()
  private style = ''

  text(text: string): void {
    if (this.cell && this.depthOfNote === 0 && this.paragraphs.length)
      this.paragraphs[this.paragraphs.length - 1] += text
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
          collector: new RowCollector(),
          joined: [],
          hidden: this.hiddenStyles.has(at['table:style-name'] ?? ''),
        }
        this.nextRow = 0
        return
      case 'table:table-row':
        this.row = {
          cells: [],
          skipped: 0,
          index: this.nextRow,
          repeated: Number(at['table:number-rows-repeated'] ?? 1),
        }
        return
      case 'table:table-cell':
      case 'table:covered-table-cell':
        this.cell = at
        this.paragraphs = []
        return
      case 'office:annotation':
        this.depthOfNote++
        return
      case 'text:p':
        if (this.cell && this.depthOfNote === 0) this.paragraphs.push('')
        return
      case 'text:s':
        this.add(' '.repeat(Number(at['text:c'] ?? 1)))
        return
      case 'text:line-break':
        this.add('\n')
        return
      case 'text:tab':
        this.add('\t')
        return
      case 'table:named-range':
        this.name(at)
    }
  }

  private add(text: string): void {
    if (this.depthOfNote === 0 && this.paragraphs.length)
      this.paragraphs[this.paragraphs.length - 1] += text.slice(0, 1000)
  }

  close(name: string): void {
    if (name === 'office:annotation') this.depthOfNote--
    else if (name === 'table:table-cell' || name === 'table:covered-table-cell') this.endCell(name)
    else if (name === 'table:table-row' && this.row && this.table) {
      const { cells, index, repeated } = this.row
      if (cells.length)
        for (let i = 0; i < Math.min(repeated, MOST_COPIES + 1); i++)
          this.table.collector.put(index + i, cells)
      this.nextRow = index + repeated
      this.row = null
    } else if (name === 'table:table' && this.table) {
      const { name: title, collector, joined, hidden } = this.table
      if (!hidden) this.tables.push({ name: title, rows: collector.rows, joined })
      this.table = null
    }
  }

  private endCell(name: string): void {
    const at = this.cell!
    this.cell = null
    if (!this.row || !this.table) return
    const value = name === 'table:covered-table-cell' ? null : valueOf(at, this.paragraphs.join('\n'))
    const repeated = Number(at['table:number-columns-repeated'] ?? 1)
    const [columns, rows] = [
      Number(at['table:number-columns-spanned'] ?? 1),
      Number(at['table:number-rows-spanned'] ?? 1),
    ]
    if (columns > 1 || rows > 1)
      this.table.joined.push({
        row: this.row.index,
        column: this.row.cells.length + this.row.skipped,
        rows,
        columns,
      })
    // Empty cells to the end of the line are left out; the row is as long as its last value.
    if (value === null) this.row.skipped += repeated
    else {
      for (; this.row.skipped > 0; this.row.skipped--) this.row.cells.push(null)
      for (let i = 0; i < Math.min(repeated, MOST_ALIKE); i++) this.row.cells.push(value)
    }
  }

  private name(at: Attributes): void {
    const found =
      /^\$?(?:'((?:[^']|'')+)'|([^.']+))\.\$?([A-Z]+)\$?(\d+):(?:\$?[^.]*\.)?\$?([A-Z]+)\$?(\d+)$/.exec(
        at['table:cell-range-address'] ?? '',
      )
    if (found && at['table:name'])
      this.names.push({
        name: at['table:name'],
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
      const date = /^\d{4}-\d{2}-\d{2}/.exec(at['office:date-value'] ?? '')?.[0]
      return date ? { date } : text || null
    }
    case 'boolean':
      return at['office:boolean-value'] === 'true'
    default:
      return (at['office:string-value'] ?? text) || null
  }
}
