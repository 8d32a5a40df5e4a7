import { and, asc, eq, gt, gte, inArray, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { sheetRowsQuery } from '#contract/sheet.ts'
import { cellText } from '#core/outline/cell.ts'
import { cellFault, type Column } from '#core/sheet/columns.ts'
import { cellReading } from '#core/sheet/reading.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { sheet, sheetRow } from '#server/db/schema.ts'
import { notFound } from '#server/ground/problem.ts'

/** A page of a sheet's rows as text; with `search`, of those in which a cell has it, upper or lower case. */
export async function sheetRows(
  app: App,
  id: string,
  { offset, limit, search, odd }: v.InferOutput<typeof sheetRowsQuery>,
) {
  const columns = await columnsOf(app.db, id)
  const oddRows = odd ? [...new Set(columns.flatMap((column) => column.odd))] : []
  const where = and(
    eq(sheetRow.sheetId, id),
    search ? sql`${sheetRow.cells}::text ilike ${`%${search.replace(/[\\%_]/g, '\\$&')}%`}` : undefined,
    odd ? (oddRows.length ? inArray(sheetRow.row, oddRows) : sql`false`) : undefined,
  )
  const [total] = await app.db
    .select({ rows: sql<number>`count(*)::int` })
    .from(sheetRow)
    .where(where)
  const rows = await app.db
    .select()
    .from(sheetRow)
    .where(where)
    .orderBy(asc(sheetRow.row))
    .offset(offset)
    .limit(limit)
  return {
    total: total?.rows ?? 0,
    rows: rows.map(({ row, cells, aside, mended }) => ({
      row,
      aside,
      cells: columns.map((_, at) => cellText(cells[at] ?? null)),
      faults: aside
        ? []
        : columns.flatMap((column, at) => {
            const message = cellFault(column, cells[at] ?? null)
            return message === null ? [] : [{ at, message }]
          }),
      read: aside
        ? []
        : columns.flatMap((column, at) => {
            const as = cellReading(column, cells[at] ?? null)
            return as === null ? [] : [{ at, as }]
          }),
      mended: Object.entries(mended).map(([at, before]) => ({ at: Number(at), before: cellText(before) })),
    })),
  }
}

export async function columnsOf(db: Db, id: string): Promise<readonly Column[]> {
  const [found] = await db.select({ columns: sheet.columns }).from(sheet).where(eq(sheet.id, id))
  if (!found) throw notFound('sheet')
  return found.columns
}

/** All rows of data, in order; those set aside are left out. */
export const allRows = (db: Db, sheetId: string) =>
  db
    .select({ row: sheetRow.row, cells: sheetRow.cells, recordId: sheetRow.recordId })
    .from(sheetRow)
    .where(and(eq(sheetRow.sheetId, sheetId), isNull(sheetRow.aside)))
    .orderBy(asc(sheetRow.row))
    .$dynamic()

/** So many rows of data after one, in order. */
export const rowsAfter = (db: Db, sheetId: string, after: number, count: number) =>
  db
    .select({ row: sheetRow.row, cells: sheetRow.cells, recordId: sheetRow.recordId })
    .from(sheetRow)
    .where(and(eq(sheetRow.sheetId, sheetId), isNull(sheetRow.aside), gt(sheetRow.row, after)))
    .orderBy(asc(sheetRow.row))
    .limit(count)

type DataRows = Awaited<ReturnType<typeof rowsAfter>>

/** Rows that are read as data before others get their turn: some 30 ms of work. */
export const ROWS_AT_ONCE = 200

/**
 * The rows of a sheet that are taken as data, so many at a time and in order, each lot with what `make` finds for it; the
 * next lot is read while one is looked at. A sheet of any length costs the same memory, and others get their turn between.
 */
export async function* rowPages<T>(
  db: Db,
  sheetId: string,
  size: number,
  make: (rows: DataRows) => Promise<T> | T,
): AsyncGenerator<T> {
  const read = async (after: number) => {
    const rows = await rowsAfter(db, sheetId, after, size)
    return { last: rows.at(-1)?.row, page: rows.length ? await make(rows) : null }
  }
  for (let next = read(0); ;) {
    const { last, page } = await next
    if (last === undefined) return
    next = read(last)
    // Where whoever looks ends early nobody waits for these.
    next.catch(() => undefined)
    yield page as T
  }
}

/** The row asked for, or the first one after it; null where the sheet has no such row. */
export async function oneRow(app: App, sheetId: string, row: number | null) {
  const [found] = await app.db
    .select({ row: sheetRow.row, cells: sheetRow.cells })
    .from(sheetRow)
    .where(and(eq(sheetRow.sheetId, sheetId), isNull(sheetRow.aside), gte(sheetRow.row, row ?? 0)))
    .orderBy(asc(sheetRow.row))
    .limit(1)
  return found ?? null
}
