import type { CellRow } from '#core/sheet/cell.ts'
import { isBlankRow } from '#core/sheet/cell.ts'
import type { MergedCells } from '#core/sheet/header.ts'
import { PackageFault } from '../zip-package.ts'
import { SHEET_LIMITS } from './sheet-limits.ts'

/** One sheet of a file; `rows[0]` is its row 1. */
export interface BookTable {
  readonly name: string
  readonly rows: readonly CellRow[]
  readonly joined: readonly MergedCells[]
}

export interface NamedRange {
  readonly name: string
  readonly table: string
  /** As "A3:F200". */
  readonly range: string
}

/** A file of tables, whatever its format. */
export interface Book {
  readonly kind: 'text' | 'xlsx' | 'ods' | 'json'
  readonly tables: readonly BookTable[]
  readonly names: readonly NamedRange[]
  /** How it was read where that was a guess: the delimiter and the encoding of a text file. */
  readonly delimiter: string | null
  readonly encoding: string | null
}

export { PackageFault as SheetFault } from '../zip-package.ts'

/** A number with the digits a sheet shows at full precision: 15 (ECMA-376 part 1 leaves it to IEEE 754; common practice). */
export const sheetNumber = (value: number): number =>
  Number.isSafeInteger(value) && Math.abs(value) < 1e15 ? value : Number(value.toPrecision(15))

/** Takes rows up to the limits; rows that are empty to the end are not counted, however many there are. */
export class RowCollector {
  readonly rows: CellRow[] = []

  /** `index` counts rows from 0 and grows. */
  put(index: number, cells: CellRow): void {
    if (isBlankRow(cells)) return
    if (index >= SHEET_LIMITS.rows)
      throw new PackageFault(
        `The sheet goes on after row ${SHEET_LIMITS.rows}; ${SHEET_LIMITS.rows} rows are the most.`,
      )
    while (this.rows.length < index) this.rows.push([])
    const last = cells.findLastIndex((cell) => cell !== null && cell !== '')
    if (last >= SHEET_LIMITS.columns)
      throw new PackageFault(`Row ${index + 1} has ${last + 1} columns; ${SHEET_LIMITS.columns} is the most.`)
    const long = cells.findIndex((cell) => typeof cell === 'string' && cell.length > SHEET_LIMITS.cellLength)
    if (long >= 0)
      throw new PackageFault(
        `Row ${index + 1}, column ${long + 1} has ${(cells[long] as string).length} characters; a cell may have ${SHEET_LIMITS.cellLength}.`,
      )
    this.rows.push(cells.slice(0, last + 1))
  }
}
