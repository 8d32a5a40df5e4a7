import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, ilike, inArray, isNotNull, isNull, sql, type SQLWrapper } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { bulkChange, recordChange, recordDetail, recordSchema, recordsQuery } from '#contract/record.ts'
import { coerce } from '#core/outline/coerce.ts'
import { type Field, type FieldValue, isItems, type Outline, type RecordData } from '#core/outline/field.ts'
import { filterProblem } from '#core/records/filter.ts'
import { matchKey } from '#core/records/import.ts'
import { belongsToCustomer, type RecordKind, recordName } from '#core/records/kinds.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, person, record, recordFile } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { summariesOf } from '#server/services/agreements/agreements.ts'
import { whereInSql } from './record-where.ts'
import { fieldsOf } from './record-fields.ts'

type Row = typeof record.$inferSelect
/** A record as the API has it. */
export type RecordAnswer = v.InferOutput<typeof recordSchema>

const withPeople = (db: Db) =>
  db
    .select({
      row: record,
      by: person.name,
      customer: sql<string | null>`(select name from record as owner where owner.id = ${record.customerId})`,
    })
    .from(record)
    .innerJoin(person, eq(person.id, record.changedBy))

type Found = Awaited<ReturnType<typeof withPeople>>[number]

const shape = ({ row, by, customer }: Found): RecordAnswer => ({
  id: row.id,
  name: row.name,
  data: structuredClone(row.data) as RecordAnswer['data'],
  customer: row.customerId && customer !== null ? { id: row.customerId, name: customer } : null,
  version: row.version,
  changedAt: row.changedAt.toISOString(),
  changedBy: by,
  archived: row.archivedAt !== null,
})

const TOO_LONG =
  'This condition takes too long to work out for all records. Make its loops (for, some, every) shorter.'

/** All records of a kind that fit a search, in order. */
export async function findRecords(
  app: App,
  kind: RecordKind,
  query: Omit<v.InferOutput<typeof recordsQuery>, 'offset' | 'limit'>,
): Promise<readonly RecordAnswer[]> {
  const fields = await fieldsOf(app.db, kind)
  const problem = filterProblem(fields, query.where)
  if (problem) throw invalid(problem, [{ pointer: '/where', detail: problem }])
  const found = await withPeople(app.db)
    .where(
      and(
        eq(record.kind, kind),
        query.archived ? isNotNull(record.archivedAt) : isNull(record.archivedAt),
        query.customer ? eq(record.customerId, query.customer) : undefined,
        whereInSql(fields, query.where),
      ),
    )
    .orderBy(asc(record.name), asc(record.id))
  const filter = { search: query.search, where: query.where, sort: query.sort }
  const places = await app.pages.findRecords(
    fields,
    found.map(({ row, customer }) => ({ data: row.data, more: customer ? [customer] : [] })),
    filter,
  )
  if (places === null) throw invalid(TOO_LONG, [{ pointer: '/where', detail: TOO_LONG }])
  return places.map((place) => shape(found[place]!))
}

/** A page of the records that a filter asks for, and how many there are. */
export async function listRecords(app: App, kind: RecordKind, query: v.InferOutput<typeof recordsQuery>) {
  const found = await findRecords(app, kind, query)
  return { total: found.length, records: found.slice(query.offset, query.offset + query.limit) }
}

async function oneRecord(db: Db, kind: RecordKind, id: string): Promise<Found> {
  const [found] = await withPeople(db).where(and(eq(record.id, id), eq(record.kind, kind)))
  if (!found) throw notFound(kind)
  return found
}

/**
 * Agreements of no record that carry a name as one of their values, however it is written large or small. The text of all values
 * is looked through first, as none of them has an index.
 */
const carries = (name: string) =>
  and(
    isNull(agreement.recordId),
    ilike(
      sql`${agreement.data}::text`,
      `%${JSON.stringify(name)
        .slice(1, -1)
        .replace(/[\\%_]/g, '\\$&')}%`,
    ),
    sql`exists (select from jsonb_each_text(${agreement.data}) as given where lower(given.value) = lower(${name}))`,
  )

/** A record with what belongs to it: of a customer its contacts and deals, of each its agreements. */
export async function readRecord(
  app: App,
  kind: RecordKind,
  id: string,
): Promise<v.InferOutput<typeof recordDetail>> {
  const found = await oneRecord(app.db, kind, id)
  const customer = kind === 'customer' ? id : found.row.customerId
  const related = customer
    ? (
        await withPeople(app.db)
          .where(and(eq(record.customerId, customer), isNull(record.archivedAt)))
          .orderBy(asc(record.name))
      ).filter(({ row }) => row.id !== id)
    : []
  const ids = [id, ...(kind === 'customer' ? related.map(({ row }) => row.id) : [])]
  return {
    ...shape(found),
    kind,
    contacts: related.filter(({ row }) => row.kind === 'contact').map(shape),
    deals: related.filter(({ row }) => row.kind === 'deal').map(shape),
    files: await filesOf(app.db, ids),
    agreements: await summariesOf(app.db, inArray(agreement.recordId, ids)),
    named: kind === 'customer' ? await summariesOf(app.db, carries(found.row.name)) : [],
    responsible: await responsibleFor(app.db, found.row.ownerId),
  }
}

async function filesOf(db: Db, ids: readonly string[]) {
  const found = await db
    .select()
    .from(recordFile)
    .where(inArray(recordFile.recordId, [...ids]))
    .orderBy(desc(recordFile.at))
    .limit(200)
  return found.map(({ sha256, name, size, source, agreementId, at }) => ({
    sha256,
    name,
    size,
    source,
    agreement: agreementId,
    at: at.toISOString(),
  }))
}

/** A file of a record, or of one that belongs to it. */
export async function fileOfRecord(app: App, kind: RecordKind, id: string, sha256: string) {
  const { files } = await readRecord(app, kind, id)
  const found = files.find((each) => each.sha256 === sha256)
  if (!found) throw notFound('file')
  return { bytes: await app.files.get(sha256), name: found.name }
}

async function responsibleFor(db: Db, ownerId: string | null) {
  if (ownerId === null) return null
  const [found] = await db
    .select({ id: person.id, name: person.name })
    .from(person)
    .where(eq(person.id, ownerId))
  return found ?? null
}

/** Says who of us is responsible for a record; null: whoever makes its agreements. */
export async function setResponsible(
  app: App,
  by: Person,
  kind: RecordKind,
  id: string,
  personId: string | null,
): Promise<void> {
  await requireMay(app, by, 'runs')
  await oneRecord(app.db, kind, id)
  const [there] = personId
    ? await app.db.select({ leftAt: person.leftAt }).from(person).where(eq(person.id, personId))
    : [{ leftAt: null }]
  if (!there || there.leftAt) throw invalid('Somebody who works here is responsible for a record.')
  await app.db.update(record).set({ ownerId: personId }).where(eq(record.id, id))
}

/** Values as people write them, read as their fields' values; what cannot be read is told at its place. */
function readData(fields: Outline, data: RecordData): RecordData {
  const faults: { pointer: string; detail: string }[] = []
  const read = (field: Field, value: FieldValue | undefined, pointer: string): FieldValue | null => {
    if (value === undefined || value === '') return null
    if (isItems(value)) {
      const items = value.map((item, i) =>
        Object.fromEntries(
          (field.items ?? []).flatMap((each) => {
            const part = read(each, item[each.name], `${pointer}/${i}/${each.name}`)
            return part === null || isItems(part) ? [] : [[each.name, part] as const]
          }),
        ),
      )
      return items.filter((item) => Object.keys(item).length > 0)
    }
    const found = coerce(field, value, null)
    if (found.ok) return found.value
    faults.push({ pointer, detail: `“${field.label}”: ${found.problem}` })
    return null
  }
  const result: Record<string, FieldValue> = {}
  for (const field of fields) {
    const value = read(field, data[field.name], `/data/${field.name}`)
    if (value !== null) result[field.name] = value
    else if (field.required)
      faults.push({ pointer: `/data/${field.name}`, detail: `“${field.label}” is missing.` })
  }
  if (faults.length) throw invalid(faults[0]!.detail, faults)
  return result
}

async function customerFor(db: Db, kind: RecordKind, id: string | null): Promise<string | null> {
  if (!belongsToCustomer(kind) || id === null) return null
  await oneRecord(db, 'customer', id)
  return id
}

/** Makes a record of what was entered; refused with what is wrong at its field. */
export async function makeRecord(
  app: App,
  by: Person,
  kind: RecordKind,
  change: v.InferOutput<typeof recordChange>,
): Promise<RecordAnswer> {
  await requireMay(app, by, 'runs')
  const data = readData(await fieldsOf(app.db, kind), change.data)
  const customerId = await customerFor(app.db, kind, change.customer)
  const id = await transaction(app, async (work) => {
    // A new contact may be the one that a deal names.
    await work.enqueue('follow-records', {})
    return insertRecord(work, by, kind, data, customerId)
  })
  return shape(await oneRecord(app.db, kind, id))
}

/** Adds a record as it is; answers its id. */
export async function insertRecord(
  ground: Ground,
  by: Pick<Person, 'id'>,
  kind: RecordKind,
  data: RecordData,
  customerId: string | null,
): Promise<string> {
  const { db } = ground
  const id = randomUUID()
  const now = ground.now()
  await db.insert(record).values({
    id,
    kind,
    name: recordName(data),
    data,
    customerId,
    createdAt: now,
    changedAt: now,
    changedBy: by.id,
  })
  return id
}

/** Gives a record, which the caller has locked, the values it has from here on; answers its version. One without a name keeps it. */
export async function changeRecord(
  ground: Ground,
  by: Pick<Person, 'id'>,
  id: string,
  data: RecordData,
): Promise<number> {
  const { db } = ground
  const saved = one(
    await db
      .update(record)
      .set({ data, name: recordName(data) || sql`${record.name}`, ...changed(ground, by) })
      .where(eq(record.id, id))
      .returning({ version: record.version }),
  )
  return saved.version
}

/** Whether a text in the database names the same as a value (`matchKey`): case and spaces make no difference. */
export const namesTheSame = (text: SQLWrapper, value: FieldValue | undefined) =>
  sql`regexp_replace(lower(btrim(${text})), '\\s+', ' ', 'g') = ${matchKey(value)}`

/** Changes a record; one that somebody else has changed since it was opened is not overwritten. */
export async function saveRecord(
  app: App,
  by: Person,
  kind: RecordKind,
  id: string,
  change: v.InferOutput<typeof recordChange>,
): Promise<RecordAnswer> {
  await requireMay(app, by, 'runs')
  const data = readData(await fieldsOf(app.db, kind), change.data)
  const customerId = await customerFor(app.db, kind, change.customer)
  const saved = await transaction(app, async (work) => {
    const { db, enqueue } = work
    await enqueue('follow-records', {})
    return db
      .update(record)
      .set({ data, name: recordName(data), customerId, ...changed(work, by) })
      .where(
        and(
          eq(record.id, id),
          eq(record.kind, kind),
          change.version === undefined ? undefined : eq(record.version, change.version),
        ),
      )
      .returning({ id: record.id })
  })
  const found = await oneRecord(app.db, kind, id)
  if (!saved.length)
    throw conflict(
      `${found.by} changed this record after you opened it. Open it again to see the other change.`,
    )
  return shape(found)
}

const changed = (ground: Ground, by: Pick<Person, 'id'>) => ({
  version: sql`${record.version} + 1`,
  changedAt: ground.now(),
  changedBy: by.id,
})

/** Sets values in many records at once, or puts them away; all or none. */
export async function changeRecords(
  app: App,
  by: Person,
  kind: RecordKind,
  change: v.InferOutput<typeof bulkChange>,
): Promise<{ changed: number }> {
  await requireMay(app, by, 'runs')
  return transaction(app, async (work) => {
    const { db, enqueue } = work
    await enqueue('follow-records', {})
    const fields = await fieldsOf(db, kind)
    const rows: Row[] = await db
      .select()
      .from(record)
      .where(and(eq(record.kind, kind), inArray(record.id, change.ids)))
      .for('update')
    for (const row of rows) {
      const merged = Object.fromEntries(
        Object.entries({ ...row.data, ...change.data }).filter(([, value]) => value !== null),
      ) as RecordData
      const data = Object.keys(change.data).length ? readData(fields, merged) : row.data
      await db
        .update(record)
        .set({
          data,
          name: recordName(data),
          ...(change.archived === undefined ? {} : { archivedAt: change.archived ? work.now() : null }),
          ...changed(work, by),
        })
        .where(eq(record.id, row.id))
    }
    return { changed: rows.length }
  })
}
