import { sql } from 'drizzle-orm'
import { jsonb, text, timestamp } from 'drizzle-orm/pg-core'
import type { AnyPgColumn } from 'drizzle-orm/pg-core'
import type { TrailDetail } from '#core/trail/trail.ts'

/** Instants with time zone; ISO 8601 text in UTC on our side. */
export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' })

/** A check that a column holds one of some words. */
export const oneOf = (column: AnyPgColumn, values: readonly string[]) =>
  sql`${column} in (${sql.raw(values.map((value) => `'${value}'`).join(', '))})`

/** What an entry of a chain has besides its number (core/trail). */
export const chained = {
  at: text('at').notNull(),
  actor: text('actor').notNull(),
  act: text('act').notNull(),
  detail: jsonb('detail').notNull().$type<TrailDetail>(),
  previous: text('previous').notNull(),
  hash: text('hash').notNull(),
}
