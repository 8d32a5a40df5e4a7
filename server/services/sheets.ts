import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, gte, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { mappingProblems, readRow } from '#core/mapping/apply.ts'
import { fedFields, mappingKey, suggestMapping } from '#core/mapping/suggest.ts'
import type { Mapping } from '#core/mapping/suggest.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { cellText, isBlankRow } from '#core/sheet/cell.ts'
import { describeColumn } from '#core/sheet/columns.ts'
import { findHeader } from '#core/sheet/header.ts'
import type { App } from '#server/app.ts'
import { mapping, person, sheet, sheetRow, template } from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import { invalid, notFound } from '#server/problem.ts'
import { rowLabel } from './row-label.ts'

const INSERTED_AT_ONCE = 500

/** Reads an uploaded table and keeps it: file, columns with their types, and rows. */
export async function uploadSheet(app: App, by: Person, name: string, bytes: Uint8Array) {
  const read = await app.pages.readSheet(name, bytes)
  if (!read.ok) throw invalid(read.problem)
  const header = findHeader(read.rows)
  if (!header.ok) throw invalid(header.problem)
  const rows = read.rows
    .map((cells, index) => ({ row: index + 1, cells }))
    .filter(({ row, cells }) => row > header.row + 1 && !isBlankRow(cells))
  const columns = header.names.map((column, position) =>
    describeColumn(
      column,
      rows.map(({ cells }) => cells[position] ?? null),
    ),
  )
  const id = randomUUID()
  await transaction(app, async ({ db }) => {
    const mediaType = /\.xlsx$/i.test(name)
      ? 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'
      : 'text/csv'
    const fileSha256 = await app.files.put(db, bytes, mediaType, app.now())
    await db.insert(sheet).values({
      id,
      name,
      fileSha256,
      headerRow: header.row + 1,
      columns,
      rowCount: rows.length,
      uploadedAt: app.now(),
      uploadedBy: by.id,
    })
    for (let from = 0; from < rows.length; from += INSERTED_AT_ONCE)
      await db
        .insert(sheetRow)
        .values(
          rows.slice(from, from + INSERTED_AT_ONCE).map(({ row, cells }) => ({ sheetId: id, row, cells })),
        )
  })
  return readSheet(app, id)
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

/** All sheets, the newest first; for a template, those first that feed most of what it needs. */
export async function listSheets(app: App, templateId: string | null) {
  const found = await app.db
    .select()
    .from(sheet)
    .innerJoin(person, eq(person.id, sheet.uploadedBy))
    .orderBy(desc(sheet.uploadedAt))
  const supplied = templateId ? suppliedFields(await draftOf(app, templateId)) : []
  const fed = ({ sheet: { columns } }: (typeof found)[number]) => fedFields(supplied, columns).size
  return found
    .map((row, i) => ({ row, i, fed: fed(row) }))
    .sort((a, b) => b.fed - a.fed || a.i - b.i)
    .map(({ row }) => summary(row))
}

export async function readSheet(app: App, id: string) {
  const [found] = await app.db
    .select()
    .from(sheet)
    .innerJoin(person, eq(person.id, sheet.uploadedBy))
    .where(eq(sheet.id, id))
  if (!found) throw notFound('sheet')
  return {
    ...summary(found),
    headerRow: found.sheet.headerRow,
    columns: found.sheet.columns.map((column) => ({
      ...column,
      odd: [...column.odd],
      samples: [...column.samples],
    })),
  }
}

/** A page of a sheet's rows as text; with `search`, of those in which a cell has it, upper or lower case. */
export async function sheetRows(
  app: App,
  id: string,
  { offset, limit, search }: { offset: number; limit: number; search?: string | undefined },
) {
  const { columns } = await readSheet(app, id)
  const rows = await app.db
    .select()
    .from(sheetRow)
    .where(
      and(
        eq(sheetRow.sheetId, id),
        search ? sql`${sheetRow.cells}::text ilike ${`%${search.replace(/[\\%_]/g, '\\$&')}%`}` : undefined,
      ),
    )
    .orderBy(asc(sheetRow.row))
    .offset(offset)
    .limit(limit)
  return {
    rows: rows.map(({ row, cells }) => ({
      row,
      cells: columns.map((_, position) => cellText(cells[position] ?? null)),
    })),
  }
}

export const allRows = (app: App, sheetId: string) =>
  app.db
    .select({ row: sheetRow.row, cells: sheetRow.cells })
    .from(sheetRow)
    .where(eq(sheetRow.sheetId, sheetId))
    .orderBy(asc(sheetRow.row))

/** The row asked for, or the first one; null where the sheet has no such row. */
export async function oneRow(app: App, sheetId: string, row: number | null) {
  const [found] = await app.db
    .select({ row: sheetRow.row, cells: sheetRow.cells })
    .from(sheetRow)
    .where(and(eq(sheetRow.sheetId, sheetId), gte(sheetRow.row, row ?? 0)))
    .orderBy(asc(sheetRow.row))
    .limit(1)
  return found ?? null
}

async function draftOf(app: App, templateId: string): Promise<TemplateContent> {
  const [found] = await app.db
    .select({ draft: template.draft })
    .from(template)
    .where(eq(template.id, templateId))
  if (!found) throw notFound('template')
  return found.draft
}

/** The mapping in force: the one somebody saved, else the suggestion. */
export async function currentMapping(
  app: App,
  sheetId: string,
  content: TemplateContent,
  templateId: string,
) {
  const { columns } = await readSheet(app, sheetId)
  const suggested = suggestMapping(suppliedFields(content), columns)
  const [saved] = await app.db
    .select()
    .from(mapping)
    .where(and(eq(mapping.sheetId, sheetId), eq(mapping.templateId, templateId)))
  return { columns, suggested, saved: saved?.columns ?? null, inForce: saved?.columns ?? suggested }
}

/** A mapping with everything it leads to: columns that cannot be right, and the rows that would need a hand. */
export async function readMapping(app: App, sheetId: string, templateId: string) {
  const content = await draftOf(app, templateId)
  const { columns, suggested, saved, inForce } = await currentMapping(app, sheetId, content, templateId)
  const supplied = suppliedFields(content)
  const rows = await allRows(app, sheetId)
  const faults = mappingProblems(
    suppliedFields(content),
    columns,
    inForce,
    rows.map(({ cells }) => cells),
  )
  const rowsWithProblems = rows.flatMap(({ row, cells }) => {
    const read = readRow(supplied, columns, inForce, cells)
    return read.problems.length
      ? [{ row, label: rowLabel(content, read.data, row), problems: [...read.problems] }]
      : []
  })
  return {
    columns: inForce,
    saved: saved !== null,
    suggested,
    faults: [...faults],
    rowsWithProblems,
    rowCount: rows.length,
  }
}

export async function saveMapping(app: App, sheetId: string, templateId: string, columns: Mapping) {
  const content = await draftOf(app, templateId)
  const known = new Set((await readSheet(app, sheetId)).columns.map(({ name }) => name))
  const supplied = suppliedFields(content)
  for (const [field, column] of Object.entries(columns)) {
    if (!mappingKey(supplied, field)) throw invalid(`There is no field “${field}”.`)
    if (!known.has(column)) throw invalid(`There is no column “${column}”.`)
  }
  await app.db
    .insert(mapping)
    .values({ sheetId, templateId, columns })
    .onConflictDoUpdate({ target: [mapping.sheetId, mapping.templateId], set: { columns } })
  return readMapping(app, sheetId, templateId)
}
