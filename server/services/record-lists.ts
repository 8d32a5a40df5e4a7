import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, inArray, isNull } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { exportQuery, viewStart } from '#contract/record.ts'
import type { columnSchema } from '#contract/sheet.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { filterProblem } from '#core/records/filter.ts'
import { dealRows, numberedColumns } from '#core/records/deal-rows.ts'
import { matchKey } from '#core/records/import.ts'
import { belongsToCustomer, PLURALS } from '#core/records/kinds.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { isItems, isNumeric } from '#core/outline/field.ts'
import type { Field, FieldValue } from '#core/outline/field.ts'
import type { Cell } from '#core/sheet/cell.ts'
import { writeCsv } from '#core/sheet/write.ts'
import type { App } from '#server/app.ts'
import { person, record, recordView } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/problem.ts'
import { fieldsOf, findRecords } from './records.ts'
import { keepAsSheet, shownColumn } from './sheets.ts'

// What is made of many records at once: files, kept searches, and sources of runs.

/** Records as a file, in the order and choice of a search. Lists stand as numbered columns. */
export async function exportRecords(app: App, kind: RecordKind, query: v.InferOutput<typeof exportQuery>) {
  const fields = await fieldsOf(app.db, kind)
  const found = await findRecords(app, kind, query)
  const plain = fields.filter(({ type, computed }) => type !== 'list' && computed === undefined)
  const numbered = fields
    .filter(({ type }) => type === 'list')
    .flatMap((list) =>
      numberedColumns(
        list,
        found.map(({ data }) => data),
      ),
    )
  const asCell = ({ type }: Field, value: FieldValue | undefined): Cell => {
    if (value === undefined || isItems(value)) return null
    if (typeof value === 'boolean') return value
    if (type === 'date') return { date: value }
    return isNumeric(type) ? Number(value) : value
  }
  const rows: Cell[][] = [
    [
      ...(belongsToCustomer(kind) ? ['Customer'] : []),
      ...plain.map(({ label }) => label),
      ...numbered.map(({ name }) => name),
    ],
    ...found.map(({ data, customer }) => [
      ...(belongsToCustomer(kind) ? [customer?.name ?? null] : []),
      ...plain.map((field) => asCell(field, data[field.name])),
      ...numbered.map(({ item, read }) => asCell(item, read(data))),
    ]),
  ]
  const title = PLURALS[kind]
  if (query.format === 'csv')
    return {
      name: `${title}.csv`,
      bytes: Buffer.from(`\ufeff${writeCsv(rows)}`) as Uint8Array,
      mediaType: 'text/csv',
    }
  const { writeXlsx } = await import('#server/convert/sheet/write-xlsx.ts')
  return {
    name: `${title}.xlsx`,
    bytes: await writeXlsx(title, rows, app.now()),
    mediaType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  }
}

export async function listViews(app: App, kind: RecordKind) {
  const found = await app.db
    .select({ view: recordView, by: person.name })
    .from(recordView)
    .innerJoin(person, eq(person.id, recordView.madeBy))
    .where(eq(recordView.kind, kind))
    .orderBy(asc(recordView.name))
  return found.map(({ view, by }) => ({ id: view.id, name: view.name, filter: view.filter, madeBy: by }))
}

export async function keepView(
  app: App,
  by: Person,
  kind: RecordKind,
  { name, filter }: v.InferOutput<typeof viewStart>,
) {
  const problem = filterProblem(await fieldsOf(app.db, kind), filter.where)
  if (problem) throw invalid(problem)
  const [kept] = await app.db
    .insert(recordView)
    .values({ id: randomUUID(), kind, name, filter, madeBy: by.id })
    .onConflictDoUpdate({ target: [recordView.kind, recordView.name], set: { filter } })
    .returning()
  return { id: kept!.id, name, filter, madeBy: by.name }
}

export async function dropView(app: App, kind: RecordKind, id: string): Promise<void> {
  await app.db.delete(recordView).where(and(eq(recordView.id, id), eq(recordView.kind, kind)))
}

type Deal = typeof record.$inferSelect

/** Deals as rows of a source: with their customers, contacts and lines, as the record book has them now. */
async function rowsOfDeals(app: App, deals: readonly Deal[]) {
  const owners = deals.flatMap(({ customerId }) => (customerId ? [customerId] : []))
  const customers = owners.length ? await app.db.select().from(record).where(inArray(record.id, owners)) : []
  const contacts = owners.length
    ? await app.db
        .select()
        .from(record)
        .where(and(eq(record.kind, 'contact'), inArray(record.customerId, owners)))
        .orderBy(asc(record.name))
    : []
  const whole = deals.map((deal) => {
    const theirs = contacts.filter(({ customerId }) => customerId === deal.customerId)
    const named = theirs.find(({ name }) => matchKey(name) === matchKey(deal.data['contact']))
    return {
      data: deal.data,
      customer: customers.find(({ id }) => id === deal.customerId)?.data ?? null,
      contact: (named ?? theirs[0])?.data ?? null,
    }
  })
  return dealRows(
    {
      deal: await fieldsOf(app.db, 'deal'),
      customer: await fieldsOf(app.db, 'customer'),
      contact: await fieldsOf(app.db, 'contact'),
    },
    whole,
  )
}

const LOOKED_AT = 200

/** The columns that deals have as a source, typed from the last changed ones; none while there are no deals. */
export async function dealColumns(app: App): Promise<v.InferOutput<typeof columnSchema>[]> {
  const deals = await app.db
    .select()
    .from(record)
    .where(and(eq(record.kind, 'deal'), isNull(record.archivedAt)))
    .orderBy(desc(record.changedAt))
    .limit(LOOKED_AT)
  if (deals.length === 0) return []
  const { names, rows } = await rowsOfDeals(app, deals)
  return names.map((name, i) =>
    shownColumn(
      describeColumn(
        name,
        rows.map((cells) => cells[i] ?? null),
      ),
    ),
  )
}

/** Deals kept as the source of a run. */
export async function dealsToSheet(app: App, by: Person, ids: readonly string[]): Promise<{ id: string }> {
  const deals = await app.db
    .select()
    .from(record)
    .where(and(eq(record.kind, 'deal'), inArray(record.id, [...ids])))
    .orderBy(asc(record.name))
  if (deals.length === 0) throw notFound('deal')
  const { names, rows } = await rowsOfDeals(app, deals)
  const name = deals.length === 1 ? deals[0]!.name : `${deals.length} deals`
  return {
    id: await keepAsSheet(
      app,
      by,
      name,
      names,
      rows.map((cells, i) => ({ row: i + 1, cells, aside: null, recordId: deals[i]!.id })),
    ),
  }
}
