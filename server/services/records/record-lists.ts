import { isNumeric } from '#core/outline/field-kinds.ts'
import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { exportQuery, viewStart } from '#contract/record.ts'
import { filterProblem } from '#core/records/filter.ts'
import { numberedColumns } from '#core/records/deal-rows.ts'
import { belongsToCustomer, PLURALS, type RecordKind } from '#core/records/kinds.ts'
import { type Field, type FieldValue, isItems } from '#core/outline/field.ts'
import type { Cell } from '#core/outline/cell.ts'
import { writeCsv } from '#core/sheet/write.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { person, recordView } from '#server/db/schema.ts'
import { invalid } from '#server/ground/problem.ts'
import { findRecords } from './records.ts'
import { fieldsOf } from './record-fields.ts'

// What is made of many records at once: files and kept searches.

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
    if (type === 'time') return { time: value }
    if (type === 'date and time') return { dateTime: value }
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

/** Kept filters of a kind. */
export async function listViews(app: App, kind: RecordKind) {
  const found = await app.db
    .select({ view: recordView, by: person.name })
    .from(recordView)
    .innerJoin(person, eq(person.id, recordView.madeBy))
    .where(eq(recordView.kind, kind))
    .orderBy(asc(recordView.name))
  return found.map(({ view, by }) => ({ id: view.id, name: view.name, filter: view.filter, madeBy: by }))
}

/** Keeps a filter under a name. */
export async function keepView(
  app: App,
  by: Person,
  kind: RecordKind,
  { name, filter }: v.InferOutput<typeof viewStart>,
) {
  await requireMay(app, by, 'runs')
  const problem = filterProblem(await fieldsOf(app.db, kind), filter.where)
  if (problem) throw invalid(problem)
  const kept = one(
    await app.db
      .insert(recordView)
      .values({ id: randomUUID(), kind, name, filter, madeBy: by.id })
      .onConflictDoUpdate({ target: [recordView.kind, recordView.name], set: { filter } })
      .returning(),
  )
  return { id: kept.id, name, filter, madeBy: by.name }
}

/** Forgets a kept filter. */
export async function dropView(app: App, by: Person, kind: RecordKind, id: string): Promise<void> {
  await requireMay(app, by, 'runs')
  await app.db.delete(recordView).where(and(eq(recordView.id, id), eq(recordView.kind, kind)))
}
