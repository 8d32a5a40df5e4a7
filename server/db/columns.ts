import { sql } from 'drizzle-orm'
import { timestamp } from 'drizzle-orm/pg-core'
import type { AnyPgColumn } from 'drizzle-orm/pg-core'

/** Instants with time zone; ISO 8601 text in UTC on our side. */
export const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' })

/** A check that a column holds one of some words. */
export const oneOf = (column: AnyPgColumn, values: readonly string[]) =>
  sql`${column} in (${sql.raw(values.map((value) => `'${value}'`).join(', '))})`
