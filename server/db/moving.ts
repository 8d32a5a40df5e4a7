import { inArray, type SQL } from 'drizzle-orm'
import type { AnyPgColumn } from 'drizzle-orm/pg-core'
import type { StateTable } from '#core/states/state-table.ts'

/**
 * A move of rows, as one statement makes it: `to` is what is set, `where` under what. A row that somebody else has moved meanwhile
 * is not touched, which the statement's answer tells.
 */
export const moving = <S extends string, M extends string>(
  column: AnyPgColumn,
  { moves }: StateTable<S, M>,
  move: M,
): { readonly to: S; readonly where: SQL } => ({
  to: moves[move].to,
  where: inArray(column, [...moves[move].from]),
})
