import { randomUUID } from 'node:crypto'
import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { importPreview, importStart } from '#contract/record.ts'
import { readGroup } from '#core/mapping/apply.ts'
import { type Mapping, suggestMapping } from '#core/mapping/suggest.ts'
import type { Outline, RecordData } from '#core/outline/field.ts'
import { type ImportStep, matchKey, planImport } from '#core/records/import.ts'
import { belongsToCustomer, matchingFields, type RecordKind, recordName } from '#core/records/kinds.ts'
import { cellText } from '#core/outline/cell.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { person, record, recordImport, recordImportChange, sheet } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { checkMapping } from '#server/services/sheets/mappings.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { insertRecord } from './records.ts'
import { fieldsOf } from './record-fields.ts'
import { allRows, columnsOf } from '#server/services/sheets/sheet-rows.ts'

type Asked = v.InferOutput<typeof importStart>

interface Plan {
  readonly fields: Outline
  readonly mapping: Mapping
  readonly columns: readonly string[]
  readonly steps: readonly ImportStep[]
  /** The customer of each row, by row; rows without one are missing. */
  readonly customers: ReadonlyMap<number, string>
}

async function plan(db: Db, kind: RecordKind, asked: Asked): Promise<Plan> {
  const fields = await fieldsOf(db, kind)
  const columns = await columnsOf(db, asked.sheetId)
  // A customer's name stands under "Customer" as often as under "Name".
  const called = fields.map((field) => (field.name === 'name' ? { ...field, label: kind } : field))
  const mapping =
    asked.mapping ?? suggestMapping(called, columns, { own: (await organisationOf(db)).synonyms })
  checkMapping(fields, columns, mapping)
  if (!matchingFields(fields).some(({ name }) => name === asked.key))
    throw invalid(`There is no field “${asked.key}” to match by.`)
  const source = await allRows(db, asked.sheetId)
  const records = await db
    .select({ id: record.id, data: record.data })
    .from(record)
    .where(and(eq(record.kind, kind), isNull(record.archivedAt)))
  const rows = source.map(({ row, cells }) => ({
    row,
    ...readGroup(fields, columns, mapping, [{ row, cells }]),
  }))
  const steps = planImport(fields, rows, records, asked.key)
  const customers = new Map<number, string>()
  const faulty = new Map<number, string>()
  if (belongsToCustomer(kind) && asked.customerColumn) {
    const at = columns.findIndex(({ name }) => name === asked.customerColumn)
    if (at < 0) throw invalid(`There is no column “${asked.customerColumn}”.`)
    const known = new Map(
      (
        await db
          .select({ id: record.id, name: record.name })
          .from(record)
          .where(and(eq(record.kind, 'customer'), isNull(record.archivedAt)))
      ).map(({ id, name }) => [matchKey(name), id]),
    )
    for (const { row, cells } of source) {
      const name = cellText(cells[at] ?? null)
      const found = known.get(matchKey(name))
      if (found) customers.set(row, found)
      else if (name.trim()) faulty.set(row, `There is no customer “${name.trim()}” in the record book.`)
    }
  }
  return {
    fields,
    mapping,
    columns: columns.map(({ name }) => name),
    customers,
    steps: steps.map((step) => {
      const message = faulty.get(step.row)
      return message && step.kind !== 'faulty'
        ? { kind: 'faulty', row: step.row, problems: [{ field: '', column: asked.customerColumn, message }] }
        : step
    }),
  }
}

const SHOWN = 60

/** What an import would do: counts, and the rows that tell most. */
export async function previewImport(
  app: App,
  by: Person,
  kind: RecordKind,
  asked: Asked,
): Promise<v.InferOutput<typeof importPreview>> {
  await requireMay(app, by, 'runs')
  const { fields, mapping, columns, steps } = await plan(app.db, kind, asked)
  const labels = new Map(fields.map(({ name, label }) => [name, label]))
  const counts = { new: 0, changed: 0, untouched: 0, faulty: 0 }
  for (const step of steps) counts[step.kind]++
  const order = ['faulty', 'changed', 'new', 'untouched']
  return {
    mapping,
    keys: matchingFields(fields).map(({ name, label }) => ({ name, label })),
    key: asked.key,
    columns: [...columns],
    counts,
    rows: [...steps]
      .sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind) || a.row - b.row)
      .slice(0, SHOWN)
      .map((step) => ({
        row: step.row,
        outcome: step.kind,
        name: 'data' in step ? recordName(step.data) : '',
        differences:
          step.kind === 'changed'
            ? step.differences.map((each) => ({ ...each, field: labels.get(each.field) ?? each.field }))
            : [],
        problems: step.kind === 'faulty' ? [...step.problems] : [],
      })),
  }
}

/** Imports a sheet in one piece; faulty rows are left where they are. What it did is kept so that it can be undone. */
export async function importRecords(app: App, by: Person, kind: RecordKind, asked: Asked) {
  await requireMay(app, by, 'runs')
  return transaction(app, async (work) => {
    const { db, enqueue } = work
    await enqueue('follow-records', {})
    const { steps, customers } = await plan(db, kind, asked)
    const source = one(await db.select({ name: sheet.name }).from(sheet).where(eq(sheet.id, asked.sheetId)))
    const id = randomUUID()
    const changes: (typeof recordImportChange.$inferInsert)[] = []
    for (const step of steps) {
      const customerId = customers.get(step.row) ?? null
      if (step.kind === 'new') {
        const recordId = await insertRecord(work, by, kind, step.data, customerId)
        changes.push({ importId: id, recordId, before: null, version: 1 })
      }
      if (step.kind === 'changed') {
        const before = one(await db.select().from(record).where(eq(record.id, step.id)).for('update'))
        const after = one(
          await db
            .update(record)
            .set({ ...written(work, by, step.data), ...(customerId ? { customerId } : {}) })
            .where(eq(record.id, step.id))
            .returning({ version: record.version }),
        )
        changes.push({ importId: id, recordId: step.id, before: before.data, version: after.version })
      }
    }
    const made = changes.filter(({ before }) => before === null).length
    if (changes.length === 0) throw conflict('Nothing would change: no row is new or different.')
    await db.insert(recordImport).values({
      id,
      kind,
      sheetName: source.name,
      at: work.now(),
      by: by.id,
      made,
      changed: changes.length - made,
    })
    for (let from = 0; from < changes.length; from += 1000)
      await db.insert(recordImportChange).values(changes.slice(from, from + 1000))
    return { id, made, changed: changes.length - made }
  })
}

const written = (ground: Ground, by: Person, data: RecordData) => ({
  data,
  name: recordName(data),
  version: sql`${record.version} + 1`,
  changedAt: ground.now(),
  changedBy: by.id,
})

/** Imports, the newest first. */
export async function listImports(app: App) {
  const found = await app.db
    .select({ each: recordImport, by: person.name })
    .from(recordImport)
    .innerJoin(person, eq(person.id, recordImport.by))
    .orderBy(desc(recordImport.at))
    .limit(100)
  return found.map(({ each, by }) => ({
    id: each.id,
    kind: each.kind,
    sheet: each.sheetName,
    at: each.at.toISOString(),
    by,
    made: each.made,
    changed: each.changed,
    undoneAt: each.undoneAt?.toISOString() ?? null,
  }))
}

/** Takes an import back: new records are put away, changed ones get back what they had. What was changed since stays. */
export async function undoImport(app: App, by: Person, id: string) {
  await requireMay(app, by, 'runs')
  return transaction(app, async (work) => {
    const { db, enqueue } = work
    await enqueue('follow-records', {})
    const [found] = await db.select().from(recordImport).where(eq(recordImport.id, id)).for('update')
    if (!found) throw notFound('import')
    if (found.undoneAt) throw conflict('This import has been undone already.')
    const changes = await db.select().from(recordImportChange).where(eq(recordImportChange.importId, id))
    let undone = 0
    for (const { recordId, before, version } of changes) {
      const [back] = await db
        .update(record)
        .set(
          before
            ? written(work, by, before)
            : {
                archivedAt: work.now(),
                version: sql`${record.version} + 1`,
                changedAt: work.now(),
                changedBy: by.id,
              },
        )
        .where(and(eq(record.id, recordId), eq(record.version, version)))
        .returning({ id: record.id })
      if (back) undone++
    }
    await db.update(recordImport).set({ undoneAt: work.now() }).where(eq(recordImport.id, id))
    return { undone, kept: changes.length - undone }
  })
}
