import { and, inArray, isNull, lte, or, sql, type SQL } from 'drizzle-orm'
import type { AnyPgColumn, PgTable } from 'drizzle-orm/pg-core'
import { aftermathStep, intakeAnswer, run, runRow, start } from './schema.ts'
import type { Db } from './connect.ts'

// Work taken for a while (schema/columns.ts, `held`), so that nothing is locked while it is done.

interface Holdable {
  readonly heldUntil: AnyPgColumn
}

/** Every table whose rows are taken so. */
const HOLDABLE: readonly (PgTable & Holdable)[] = [run, runRow, start, intakeAnswer, aftermathStep]

/** Whether nobody has it in hand. */
export const isFree = ({ heldUntil }: Holdable, now: Date) => or(isNull(heldUntil), lte(heldUntil, now))

/** What marks it as taken by a process, for so many milliseconds. */
export const taking = (
  { holder, now }: { readonly holder: string; readonly now: () => Date },
  time: number,
) => ({ heldBy: holder, heldUntil: new Date(now().getTime() + time) })

/**
 * Takes the first row in an order of those that wait and that nobody has in hand, for so many milliseconds: one statement, which
 * passes by what others are just taking. Undefined: there is none.
 */
export async function takeFirst<T extends Holdable & PgTable & { readonly id: AnyPgColumn }>(
  app: Parameters<typeof taking>[0] & { readonly db: Db },
  table: T,
  waits: SQL | undefined,
  order: readonly SQL[],
  time: number,
): Promise<T['$inferSelect'] | undefined> {
  const first = app.db
    .select({ id: table.id })
    .from(table as PgTable)
    .where(and(waits, isFree(table, app.now())))
    .orderBy(...order)
    .limit(1)
    .for('update', { skipLocked: true })
  const [taken] = await app.db
    .update(table as PgTable)
    .set(taking(app, time))
    .where(inArray(table.id, first))
    .returning()
  return taken
}

/** Frees what a process had in hand that lives no more. */
export async function freeHeld(db: Db, holder: string): Promise<void> {
  for (const table of HOLDABLE)
    await db.execute(
      sql`update ${table} set held_until = null where held_by = ${holder} and held_until is not null`,
    )
}
