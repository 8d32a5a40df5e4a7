import { readItemKey } from '#core/mapping/key.ts'
import { keyColumn, type KnownBy } from '#core/run/duplicates.ts'
import type { Column } from '#core/sheet/columns.ts'
import type { Db } from '#server/db/connect.ts'
import type { run } from '#server/db/schema.ts'
import { rowsAfter } from '#server/services/sheets/sheet-rows.ts'

/** Rows looked through for what tells customers apart: some 20 ms of work. Longer sheets tell by these. */
const LOOKED_THROUGH = 2000

/** By what a run's customers are known where nobody says otherwise; `found`: a column tells them better than their names. */
export async function knownBy(
  db: Db,
  { sheetId, mapping }: Pick<typeof run.$inferSelect, 'sheetId' | 'mapping'>,
  columns: readonly Column[],
  name: string,
): Promise<{ readonly by: KnownBy | null; readonly found: boolean }> {
  const source = mapping[name]
  const key = source ? keyColumn(columns, await rowsAfter(db, sheetId, 0, LOOKED_THROUGH), source) : null
  if (key === null) return { by: name ? { field: name } : null, found: false }
  const field = Object.keys(mapping).find((each) => mapping[each] === key && readItemKey(each) === null)
  return { by: field ? { field } : { column: key }, found: true }
}
