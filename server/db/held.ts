import { isNull, lte, or, sql } from 'drizzle-orm'
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

/** Frees what a process had in hand that lives no more. */
export async function freeHeld(db: Db, holder: string): Promise<void> {
  for (const table of HOLDABLE)
    await db.execute(
      sql`update ${table} set held_until = null where held_by = ${holder} and held_until is not null`,
    )
}
