import { randomUUID } from 'node:crypto'
import { and, desc, eq, max, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { sheetSchema } from '#contract/sheet.ts'
import type { Person } from '#contract/person.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { fedFields } from '#core/mapping/suggest.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { Cell } from '#core/outline/cell.ts'
import { type Column, describeColumn } from '#core/sheet/columns.ts'
import type { DataRow } from '#core/sheet/table.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { PackedSheet } from '#server/convert/sheet/read-sheet.ts'
import { rowsOf } from '#server/db/bulk.ts'
import type { Db } from '#server/db/connect.ts'
import { edition, mapping, person, run, sheet, sheetRow, template } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { invalid, notFound } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

export type Sheet = v.InferOutput<typeof sheetSchema>

const INSERTED_AT_ONCE = 2000

const mediaTypes = {
  text: 'text/csv',
  json: 'application/json',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  ods: 'application/vnd.oasis.opendocument.spreadsheet',
} as const

/** Reads an uploaded table and keeps it: file, columns with their types, and rows. */
export async function uploadSheet(app: App, by: Person, name: string, bytes: Uint8Array): Promise<Sheet> {
  await requireMay(app, by, 'runs')
  const read = await app.pages.readSheet(name, bytes)
  if (!read.ok) throw invalid(read.problem)
  const id = randomUUID()
  const stored = await app.files.store([bytes], mediaTypes[read.kind])
  const fileSha256 = stored[0]!.sha256
  await transaction(app, async ({ db, files, now }) => {
    await files.record(stored)
    await db.insert(sheet).values({
      id,
      name,
      fileSha256,
      uploadedAt: now(),
      uploadedBy: by.id,
      ...asRead(read),
    })
    await insertPacks(db, id, read.packs)
  })
  return readSheet(app, id)
}

export const asRead = (read: Extract<PackedSheet, { ok: true }>) => ({
  kind: read.kind,
  reading: read.reading,
  tables: read.tables,
  names: read.names,
  notes: read.notes,
  headerRow: read.headerRow,
  columns: read.columns,
  rowCount: read.rowCount,
})

export type NewRow = DataRow & {
  readonly recordId?: string
  readonly mended?: Readonly<Record<string, Cell>>
}

export async function insertRows(db: Db, sheetId: string, rows: readonly NewRow[]): Promise<void> {
  for (let from = 0; from < rows.length; from += INSERTED_AT_ONCE) {
    const some = rows.slice(from, from + INSERTED_AT_ONCE).map((row) => ({ sheetId, mended: {}, ...row }))
    await db.execute(sql`insert into ${sheetRow} ${rowsOf(sheetRow, some)}`)
  }
}

/** Puts in rows as a thread has packed them. */
export async function insertPacks(db: Db, sheetId: string, packs: readonly Uint8Array[]): Promise<void> {
  for (const pack of packs)
    await db.execute(sql`
      insert into ${sheetRow} (sheet_id, row, cells, aside)
      select ${sheetId}, row, cells, aside
      from jsonb_to_recordset(${Buffer.from(pack).toString()}::jsonb) as packed (row integer, cells jsonb, aside text)`)
}

/** Keeps rows that were taken from elsewhere as a sheet: from the record book, which they follow, or as somebody sent them. */
export async function keepAsSheet(
  app: App,
  by: Person,
  name: string,
  columnNames: readonly string[],
  rows: readonly NewRow[],
  kind: 'records' | 'text',
): Promise<string> {
  const id = randomUUID()
  const columns = columnNames.map((column, i) =>
    describeColumn(
      column,
      rows.map(({ cells }) => cells[i] ?? null),
      { rows: rows.map(({ row }) => row) },
    ),
  )
  await transaction(app, async ({ db, now }) => {
    await db.insert(sheet).values({
      id,
      name,
      kind,
      headerRow: 0,
      columns,
      rowCount: rows.length,
      uploadedAt: now(),
      uploadedBy: by.id,
    })
    await insertRows(db, id, rows)
  })
  return id
}

const summary = ({
  sheet: found,
  person: by,
}: {
  sheet: typeof sheet.$inferSelect
  person: typeof person.$inferSelect
}) => ({
  id: found.id,
  name: found.name,
  rowCount: found.rowCount,
  columnCount: found.columns.length,
  uploadedAt: found.uploadedAt.toISOString(),
  uploadedBy: by.name,
})

/** All uploaded sheets, the newest first; for a template, those first that feed most of what it needs. */
/** Sheets that have fed a template, and how lately: the later, the greater. */
async function usedWith(app: App, templateId: string): Promise<ReadonlyMap<string, number>> {
  const mapped = await app.db
    .select({ sheetId: mapping.sheetId })
    .from(mapping)
    .where(eq(mapping.templateId, templateId))
  const runs = await app.db
    .select({ sheetId: run.sheetId, at: max(run.createdAt) })
    .from(run)
    .innerJoin(edition, eq(edition.id, run.editionId))
    .where(eq(edition.templateId, templateId))
    .groupBy(run.sheetId)
  return new Map([
    ...mapped.map(({ sheetId }) => [sheetId, 1] as const),
    ...runs.map(({ sheetId, at }) => [sheetId, at?.getTime() ?? 1] as const),
  ])
}

/** All sheets; for a template those first that fed it lately, then those that could feed most of it. */
export async function listSheets(app: App, templateId: string | null) {
  const found = await app.db
    .select()
    .from(sheet)
    .innerJoin(person, eq(person.id, sheet.uploadedBy))
    .where(sql`${sheet.kind} <> 'records'`)
    .orderBy(desc(sheet.uploadedAt))
  const supplied = templateId ? suppliedFields(await draftOf(app, templateId)) : []
  const { synonyms } = await organisationOf(app.db)
  const fed = ({ sheet: { columns } }: (typeof found)[number]) => fedFields(supplied, columns, synonyms).size
  const used = templateId ? await usedWith(app, templateId) : new Map<string, number>()
  return found
    .map((row, i) => ({ row, i, fed: fed(row), used: used.get(row.sheet.id) ?? 0 }))
    .sort((a, b) => b.used - a.used || b.fed - a.fed || a.i - b.i)
    .map(({ row, used: at }) => ({ ...summary(row), ...(templateId ? { known: at > 0 } : {}) }))
}

export async function readSheet(app: App, id: string): Promise<Sheet> {
  const [found] = await app.db
    .select()
    .from(sheet)
    .innerJoin(person, eq(person.id, sheet.uploadedBy))
    .where(eq(sheet.id, id))
  if (!found) throw notFound('sheet')
  const [counted] = await app.db
    .select({
      cells: sql<number>`coalesce(sum((select count(*) from jsonb_object_keys(${sheetRow.mended}))), 0)::int`,
    })
    .from(sheetRow)
    .where(and(eq(sheetRow.sheetId, id), sql`${sheetRow.mended} <> '{}'::jsonb`))
  const { kind, headerRow, reading, tables, names, notes, columns } = found.sheet
  return {
    ...summary(found),
    kind,
    headerRow,
    reading,
    tables: [...tables],
    names: [...names],
    notes: [...notes],
    columns: columns.map(shownColumn),
    mended: counted?.cells ?? 0,
  }
}

/** Rows at fault told with the column; the grid asks for the others by page. */
const ODD_TOLD = 20

/** A column as answers tell it. */
export const shownColumn = (column: Column) => ({
  ...column,
  odd: column.odd.slice(0, ODD_TOLD),
  unsure: [...column.unsure],
  samples: [...column.samples],
  values: column.values && [...column.values],
  said: { ...column.said },
})

export async function draftOf(app: App, templateId: string): Promise<TemplateContent> {
  const [found] = await app.db
    .select({ draft: template.draft })
    .from(template)
    .where(eq(template.id, templateId))
  if (!found) throw notFound('template')
  return found.draft
}
