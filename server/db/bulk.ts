import { sql, type SQL } from 'drizzle-orm'
import { getTableConfig, type PgTable } from 'drizzle-orm/pg-core'
import { perObject } from '#core/per-object.ts'

/**
 * Rows of a table as one value, for `insert into … select`: thousands of rows as one parameter instead of one for each of
 * their cells. Every column has to be given; a JSON null is no value.
 */
export function rowsOf<T extends PgTable>(table: T, rows: readonly T['$inferInsert'][]): SQL {
  const { name } = getTableConfig(table)
  return sql`select * from jsonb_populate_recordset(null::${sql.identifier(name)}, ${JSON.stringify(namedRows(table, rows))}::jsonb)`
}

/** Rows by the names of their columns, as PostgreSQL reads them back by `jsonb_populate_record`. */
export function namedRows<T extends PgTable>(
  table: T,
  rows: readonly T['$inferInsert'][],
): readonly Readonly<Record<string, unknown>>[] {
  const { columns } = getTableConfig(table)
  return rows.map((row) =>
    Object.fromEntries(
      columns.map((column) => [
        column.name,
        (row as Record<string, unknown>)[keyOf(table, column.name)] ?? null,
      ]),
    ),
  )
}

/** Under which names our rows have the columns of a table. */
const keysOf = perObject(
  (table: PgTable) =>
    new Map(
      Object.entries(table as unknown as Record<string, { name?: string }>).flatMap(([key, each]) =>
        each?.name ? [[each.name, key] as const] : [],
      ),
    ),
)

const keyOf = (table: PgTable, column: string): string => keysOf(table).get(column) ?? column
