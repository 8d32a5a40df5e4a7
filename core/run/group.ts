import { matchKey } from '../records/import.ts'
import { cellText } from '../outline/cell.ts'
import type { SourceRow } from '../mapping/apply.ts'
import type { Column } from '../sheet/columns.ts'

/**
 * Rows whose cells in the named columns are the same (case and spaces aside) as groups, in the order of their first rows.
 * A row that has nothing in any of these columns is a group of its own. Without columns each row is one.
 */
export function groupRows<R extends SourceRow>(
  columns: readonly Column[],
  groupBy: readonly string[],
  rows: readonly R[],
): readonly (readonly R[])[] {
  const places = groupBy
    .map((name) => columns.findIndex((column) => column.name === name))
    .filter((place) => place >= 0)
  if (places.length === 0) return rows.map((row) => [row])
  const groups = new Map<string, R[]>()
  for (const row of rows) {
    const parts = places.map((place) => matchKey(cellText(row.cells[place] ?? null)))
    const key = parts.every((part) => part === '') ? `row ${row.row}` : JSON.stringify(parts)
    const group = groups.get(key)
    if (group) group.push(row)
    else groups.set(key, [row])
  }
  return [...groups.values()]
}
