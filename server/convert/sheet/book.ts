import type { Cell, CellRow } from '#core/outline/cell.ts'
import { PackageFault } from '../zip-package.ts'
import { SHEET_LIMITS } from './sheet-limits.ts'

export { PackageFault as SheetFault } from '../zip-package.ts'

/** A number with the digits a sheet shows at full precision: 15 (ECMA-376 part 1 leaves it to IEEE 754; common practice). */
export const sheetNumber = (value: number): number =>
  Number.isSafeInteger(value) && Math.abs(value) < 1e15 ? value : Number(value.toPrecision(15))

/** A whole number as a file says it, within bounds; `otherwise` where it says none, or one that cannot be. */
export function whole(text: string | undefined, least: number, most: number, otherwise: number): number {
  if (text === undefined || !/^\d{1,15}$/.test(text)) return otherwise
  const found = Number(text)
  return found < least ? otherwise : Math.min(found, most)
}

/** Throws where a cell would stand further right than any that is taken; before room is made for it. */
export function checkColumn(row: number, column: number): void {
  if (column >= SHEET_LIMITS.columns)
    throw new PackageFault(
      `Row ${row + 1} has a cell in column ${column + 1}; ${SHEET_LIMITS.columns} columns are the most.`,
    )
}

/** The text of one cell as it comes, up to the most a cell may have. */
export class CellText {
  text = ''

  add(more: string): void {
    this.text += more
    if (this.text.length > SHEET_LIMITS.cellLength)
      throw new PackageFault(
        `A cell has more than ${SHEET_LIMITS.cellLength} characters, the most a cell may have.`,
      )
  }
}

const isBlankCell = (cell: Cell): boolean => typeof cell === 'string' && cell.trim() === ''

/** Takes rows up to the limits; rows that are empty to the end are not counted, however many there are. */
export class RowCollector {
  readonly rows: CellRow[] = []

  /** `cells` counts those of all sheets of a file. */
  constructor(private readonly cells: { taken: number } = { taken: 0 }) {}

  /** `index` counts rows from 0 and grows. */
  put(index: number, cells: CellRow): void {
    let last = cells.length - 1
    while (last >= 0 && (cells[last] === null || isBlankCell(cells[last]!))) last--
    if (last < 0) return
    if (index >= SHEET_LIMITS.rows)
      throw new PackageFault(
        `The sheet goes on after row ${SHEET_LIMITS.rows}; ${SHEET_LIMITS.rows} rows are the most.`,
      )
    while (this.rows.length < index) this.rows.push([])
    if (last >= SHEET_LIMITS.columns)
      throw new PackageFault(`Row ${index + 1} has ${last + 1} columns; ${SHEET_LIMITS.columns} is the most.`)
    for (let at = 0; at <= last; at++) {
      const cell = cells[at]!
      if (typeof cell === 'string' && cell.length > SHEET_LIMITS.cellLength)
        throw new PackageFault(
          `Row ${index + 1}, column ${at + 1} has ${cell.length} characters; a cell may have ${SHEET_LIMITS.cellLength}.`,
        )
    }
    this.cells.taken += last + 1
    if (this.cells.taken > SHEET_LIMITS.cells)
      throw new PackageFault(
        `The sheet has more than ${SHEET_LIMITS.cells.toLocaleString('en')} cells. Leave out columns or rows that are not needed.`,
      )
    this.rows.push(cells.length === last + 1 ? cells : cells.slice(0, last + 1))
  }
}
