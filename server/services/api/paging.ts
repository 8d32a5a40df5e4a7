import { sql, type SQL } from 'drizzle-orm'
import type { PgColumn } from 'drizzle-orm/pg-core'
import type { App } from '#server/app/app.ts'
import { invalid } from '#server/ground/problem.ts'

// Pages of what changes, by when it changed: a cursor is the instant of the last one answered, and its id.

/** Milliseconds after which no transaction of ours is open any more that told an earlier time. */
const SETTLED = 30_000

const CURSOR = /^(\d{4}-\d\d-\d\dT[\d:.]+Z) ([0-9a-f-]{36})$/

/** An instant to the microsecond, as the database has it: rows of one millisecond have an order too. */
export const exactly = (at: PgColumn): SQL<string> =>
  sql<string>`to_char(${at} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')`

/** What comes behind a cursor; without one everything. */
export function behind(cursor: string | undefined, at: PgColumn, id: PgColumn): SQL | undefined {
  if (cursor === undefined) return undefined
  const found = CURSOR.exec(Buffer.from(cursor, 'base64url').toString())
  if (!found || Number.isNaN(Date.parse(found[1]!)))
    throw invalid('This is no cursor of ours. Leave it out to begin at the beginning.', [
      { pointer: '/cursor', detail: 'is no cursor' },
    ])
  return sql`(${at}, ${id}) > (${found[1]!}::timestamptz, ${found[2]!}::uuid)`
}

interface Changing {
  readonly exact: string
  readonly row: { readonly id: string; readonly changedAt: Date }
}

/**
 * A page of rows of which one more was asked for than it holds. What another transaction has still open may come with an earlier
 * time than one that is answered: the cursor stops before what is as new as that, which is then told again.
 */
export function pageOf<R extends Changing>(
  app: App,
  rows: readonly R[],
  { limit, cursor }: { readonly limit: number; readonly cursor?: string | undefined },
) {
  const shown = rows.slice(0, limit)
  const more = rows.length > limit
  const settled = new Date(app.now().getTime() - SETTLED)
  const last = more ? shown.at(-1) : shown.findLast(({ row }) => row.changedAt < settled)
  return {
    shown,
    next: last ? Buffer.from(`${last.exact} ${last.row.id}`).toString('base64url') : (cursor ?? null),
    more,
  }
}
