import { sql } from 'drizzle-orm'
import { type AnyPgColumn, jsonb, text, timestamp, uuid } from 'drizzle-orm/pg-core'
import type { TrailDetail } from '#core/trail/trail.ts'

/** Instants with time zone; ISO 8601 text in UTC on our side. */
export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' })

/**
 * Work that one process has taken for a while: nobody else's until that has passed, or until it is known that the process
 * lives no more.
 */
export const held = {
  heldBy: uuid('held_by'),
  heldUntil: instant('held_until'),
}

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
