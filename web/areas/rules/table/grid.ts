import type { ColumnOf } from '#core/rules/edit.ts'
import type { RuleTable } from '#core/rules/table.ts'

// What the grid, its heads and its rows share: sizes in pixels, what is chosen, how columns are called.

/** Height of the heads. */
export const HEAD = 58
/** Height of a row. */
export const ROW = 44
/** Width of the handle that a row is dragged by. */
export const HANDLE = 52

/** Where one is: a place, and the other corner of what is chosen. */
export interface Chosen {
  readonly row: number
  readonly column: number
  readonly toRow: number
  readonly toColumn: number
}

/** A new id for a row or column. */
export const newId = (): string => crypto.randomUUID().slice(0, 8)

/** How wide a column is, in pixels, where nobody has drawn it. */
export const widthOf = (table: RuleTable, column: ColumnOf): number =>
  column.kind === 'note'
    ? 170
    : column.kind === 'input'
      ? (table.inputs.find(({ id }) => id === column.id)?.width ?? 132)
      : (table.outputs.find(({ key }) => key === column.key)?.width ??
        { approver: 168, order: 60, days: 60, refuse: 168, signBy: 92, copies: 180 }[column.key])

/** What a column is known by. */
export const keyOf = (column: ColumnOf): string =>
  column.kind === 'input' ? column.id : column.kind === 'output' ? column.key : 'note'

/** What a column is called. */
export function headOf(table: RuleTable, column: ColumnOf): string {
  if (column.kind === 'note') return 'Comment'
  if (column.kind === 'output') return column.key
  const input = table.inputs.find(({ id }) => id === column.id)
  return input?.label || input?.expression || 'Condition'
}

/** The rows and columns of a block, in order, within what there is. */
export function range(chosen: Chosen, rows: number, columns: number) {
  const span = (a: number, b: number, most: number) => {
    const [low, high] = [Math.min(a, b), Math.min(Math.max(a, b), most - 1)]
    return Array.from({ length: Math.max(0, high - low + 1) }, (_, i) => low + i)
  }
  return {
    rows: span(chosen.row, chosen.toRow, rows),
    columns: span(chosen.column, chosen.toColumn, columns),
  }
}
