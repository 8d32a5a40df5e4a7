import { and, asc, desc, eq, exists, gt, inArray, isNull, or } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { columnSchema } from '#contract/sheet.ts'
import { dealRows } from '#core/records/deal-rows.ts'
import { matchKey } from '#core/records/import.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import type { Cell, CellRow } from '#core/outline/cell.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { record, sheet, sheetRow } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { notFound } from '#server/ground/problem.ts'
import { fieldsOf } from './record-fields.ts'
import { checkAgain } from '#server/services/runs/run-check.ts'
import { describeAgain, lockSheet, withMended } from '#server/services/runs/mending.ts'
import { keepAsSheet, shownColumn } from '#server/services/sheets/sheets.ts'

// Deals of the record book as rows of runs, and how these follow the record book.

type Row = typeof record.$inferSelect

const ownerOf = ({ kind, id, customerId }: Row) => (kind === 'customer' ? id : customerId)

/**
 * Records as rows of a source, deals mostly: with their customers, contacts and lines, as the record book has them now. A
 * customer or contact by itself is a row without a deal.
 */
async function rowsOfRecords(db: Db, records: readonly Row[]) {
  const owners = records.flatMap((each) => ownerOf(each) ?? [])
  const customers = owners.length ? await db.select().from(record).where(inArray(record.id, owners)) : []
  const contacts = owners.length
    ? await db
        .select()
        .from(record)
        .where(and(eq(record.kind, 'contact'), inArray(record.customerId, owners)))
        .orderBy(asc(record.name))
    : []
  const whole = records.map((each) => {
    const owner = ownerOf(each)
    const theirs = contacts.filter(({ customerId }) => customerId === owner)
    const named =
      each.kind === 'contact'
        ? each
        : theirs.find(({ name }) => matchKey(name) === matchKey(each.data['contact']))
    return {
      data: each.kind === 'deal' ? each.data : {},
      customer: customers.find(({ id }) => id === owner)?.data ?? null,
      contact: (named ?? theirs[0])?.data ?? null,
    }
  })
  return dealRows(
    {
      deal: await fieldsOf(db, 'deal'),
      customer: await fieldsOf(db, 'customer'),
      contact: await fieldsOf(db, 'contact'),
    },
    whole,
  )
}

/** Deals looked at for what kind of values their columns hold. */
const LOOKED_AT = 200

const lastDeals = (db: Db) =>
  db
    .select()
    .from(record)
    .where(and(eq(record.kind, 'deal'), isNull(record.archivedAt)))
    .orderBy(desc(record.changedAt))
    .limit(LOOKED_AT)

const describeAll = (names: readonly string[], rows: readonly CellRow[]) =>
  names.map((name, i) =>
    describeColumn(
      name,
      rows.map((cells) => cells[i] ?? null),
    ),
  )

/** One record as a source of its own: its row, among columns typed from it and the deals last changed. */
export async function recordSource(db: Db, id: string) {
  const [found] = await db.select().from(record).where(eq(record.id, id))
  if (!found || found.kind === 'price') throw notFound('record')
  const others = (await lastDeals(db)).filter((each) => each.id !== id)
  const { names, rows } = await rowsOfRecords(db, [found, ...others])
  return { record: found, columns: describeAll(names, rows), cells: rows[0]! }
}

/** The columns that deals have as a source, typed from the last changed ones; none while there are no deals. */
export async function dealColumns(app: App): Promise<v.InferOutput<typeof columnSchema>[]> {
  const deals = await lastDeals(app.db)
  if (deals.length === 0) return []
  const { names, rows } = await rowsOfRecords(app.db, deals)
  return describeAll(names, rows).map(shownColumn)
}

/** Deals kept as the source of a run. */
export async function dealsToSheet(app: App, by: Person, ids: readonly string[]): Promise<{ id: string }> {
  await requireMay(app, by, 'runs')
  const deals = await app.db
    .select()
    .from(record)
    .where(and(eq(record.kind, 'deal'), inArray(record.id, [...ids])))
    .orderBy(asc(record.name))
  if (deals.length === 0) throw notFound('deal')
  const { names, rows } = await rowsOfRecords(app.db, deals)
  const name = deals.length === 1 ? deals[0]!.name : `${deals.length} deals`
  return {
    id: await keepAsSheet(
      app,
      by,
      name,
      names,
      rows.map((cells, i) => ({ row: i + 1, cells, aside: null, recordId: deals[i]!.id })),
      'records',
    ),
  }
}

/** Rows of records' sheets whose deal, or its customer or contacts, have changed since the rows were read. */
function changedRows(db: Db) {
  const deal = alias(record, 'deal')
  const changed = gt(record.changedAt, sheet.uploadedAt)
  const around = db
    .select({ id: record.id })
    .from(record)
    .where(
      and(
        changed,
        or(
          eq(record.id, deal.id),
          eq(record.id, deal.customerId),
          and(eq(record.kind, 'contact'), eq(record.customerId, deal.customerId)),
        ),
      ),
    )
  return db
    .select({
      sheetId: sheetRow.sheetId,
      row: sheetRow.row,
      cells: sheetRow.cells,
      mended: sheetRow.mended,
      deal,
    })
    .from(sheetRow)
    .innerJoin(sheet, and(eq(sheet.id, sheetRow.sheetId), eq(sheet.kind, 'records')))
    .innerJoin(deal, eq(deal.id, sheetRow.recordId))
    .where(exists(around))
    .orderBy(asc(sheetRow.row))
    .$dynamic()
}

/**
 * Job: reads rows that were taken from the record book again where that has changed. What was mended in a run stays as it was
 * mended, what was made stays as it was made; the runs check their rows anew.
 */
export async function followRecords(app: App): Promise<void> {
  const stale = new Set((await changedRows(app.db)).map(({ sheetId }) => sheetId))
  for (const id of stale) await readDealsAgain(app, id)
}

const readDealsAgain = (app: App, id: string): Promise<void> =>
  transaction(app, async (work) => {
    const { db } = work
    const { columns } = await lockSheet(db, id)
    // What changes from here on is read the next time.
    const at = work.now()
    const rows = (await changedRows(db)).filter(({ sheetId }) => sheetId === id)
    const read = await rowsOfRecords(
      db,
      rows.map(({ deal }) => deal),
    )
    const known = new Set(columns.map(({ name }) => name))
    // A deal with more lines than any had has more columns.
    const all = [
      ...columns,
      ...read.names.filter((name) => !known.has(name)).map((name) => describeColumn(name, [])),
    ]
    for (const [i, { row, cells: before, mended }] of rows.entries()) {
      const cells = all.map(({ name }): Cell => read.rows[i]![read.names.indexOf(name)] ?? null)
      const kept = Object.keys(mended).map((place) => ({
        column: all[Number(place)]?.name ?? '',
        cell: before[Number(place)] ?? null,
      }))
      const now = withMended({ row, cells, aside: null }, all, kept)
      await db
        .update(sheetRow)
        .set({ cells: now.cells, mended: now.mended ?? {} })
        .where(and(eq(sheetRow.sheetId, id), eq(sheetRow.row, row)))
    }
    await db.update(sheet).set({ columns: all, uploadedAt: at }).where(eq(sheet.id, id))
    await describeAgain(db, id, null)
    await checkAgain(work, id, null)
  })
