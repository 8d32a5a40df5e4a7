import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, gt, gte, inArray, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { columnChange, mending, readingSchema, sheetRowsQuery, sheetSchema } from '#contract/sheet.ts'
import type { Person } from '#contract/person.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { fedFields } from '#core/mapping/suggest.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { cellText } from '#core/sheet/cell.ts'
import type { Cell } from '#core/sheet/cell.ts'
import { cellFault, describeColumn } from '#core/sheet/columns.ts'
import type { Column, Said } from '#core/sheet/columns.ts'
import type { DataRow } from '#core/sheet/table.ts'
import type { App } from '#server/app.ts'
import type { SheetRead } from '#server/convert/sheet/read-sheet.ts'
import { rowsOf } from '#server/db/bulk.ts'
import type { Db } from '#server/db/connect.ts'
import { person, run, sheet, sheetRow, template } from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import { conflict, invalid, notFound } from '#server/problem.ts'
import { checkAgain, checkAtOnce } from './run-check.ts'

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
  const read = await app.pages.readSheet(name, bytes)
  if (!read.ok) throw invalid(read.problem)
  const id = randomUUID()
  await transaction(app, async ({ db }) => {
    const fileSha256 = await app.files.put(db, bytes, mediaTypes[read.kind], app.now())
    await db.insert(sheet).values({
      id,
      name,
      fileSha256,
      uploadedAt: app.now(),
      uploadedBy: by.id,
      ...asRead(read),
    })
    await insertRows(db, id, read.rows)
  })
  return readSheet(app, id)
}

const asRead = (read: SheetRead) => ({
  kind: read.kind,
  reading: read.reading,
  tables: read.tables,
  names: read.names,
  notes: read.notes,
  headerRow: read.headerRow,
  columns: read.columns,
  rowCount: read.rows.filter(({ aside }) => aside === null).length,
})

type NewRow = DataRow & { readonly recordId?: string; readonly mended?: Readonly<Record<string, Cell>> }

async function insertRows(db: Db, sheetId: string, rows: readonly NewRow[]): Promise<void> {
  for (let from = 0; from < rows.length; from += INSERTED_AT_ONCE) {
    const some = rows.slice(from, from + INSERTED_AT_ONCE).map((row) => ({ sheetId, mended: {}, ...row }))
    await db.execute(sql`insert into ${sheetRow} ${rowsOf(sheetRow, some)}`)
  }
}

/** Keeps rows that were taken from elsewhere (the record book) as a sheet. */
export async function keepAsSheet(
  app: App,
  by: Person,
  name: string,
  columnNames: readonly string[],
  rows: readonly (NewRow & { readonly recordId: string })[],
): Promise<string> {
  const id = randomUUID()
  const columns = columnNames.map((column, i) =>
    describeColumn(
      column,
      rows.map(({ cells }) => cells[i] ?? null),
      { rows: rows.map(({ row }) => row) },
    ),
  )
  await transaction(app, async ({ db }) => {
    await db.insert(sheet).values({
      id,
      name,
      kind: 'records',
      headerRow: 0,
      columns,
      rowCount: rows.length,
      uploadedAt: app.now(),
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
export async function listSheets(app: App, templateId: string | null) {
  const found = await app.db
    .select()
    .from(sheet)
    .innerJoin(person, eq(person.id, sheet.uploadedBy))
    .where(sql`${sheet.kind} <> 'records'`)
    .orderBy(desc(sheet.uploadedAt))
  const supplied = templateId ? suppliedFields(await draftOf(app, templateId)) : []
  const fed = ({ sheet: { columns } }: (typeof found)[number]) => fedFields(supplied, columns).size
  return found
    .map((row, i) => ({ row, i, fed: fed(row) }))
    .sort((a, b) => b.fed - a.fed || a.i - b.i)
    .map(({ row }) => summary(row))
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
  said: { ...column.said },
})

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

/** Rows that are read as data before others get their turn: some 30 ms of work. */
export const ROWS_AT_ONCE = 200

type DataRows = Awaited<ReturnType<typeof rowsAfter>>

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

export async function draftOf(app: App, templateId: string): Promise<TemplateContent> {
  const [found] = await app.db
    .select({ draft: template.draft })
    .from(template)
    .where(eq(template.id, templateId))
  if (!found) throw notFound('template')
  return found.draft
}

/** Reads the file another way. What was mended stays mended where its row and column are there again. */
export async function readAgain(
  app: App,
  id: string,
  reading: v.InferOutput<typeof readingSchema>,
): Promise<Sheet> {
  const [found] = await app.db.select().from(sheet).where(eq(sheet.id, id))
  if (!found) throw notFound('sheet')
  if (found.fileSha256 === null) throw conflict('These rows come from the record book, not from a file.')
  const bytes = await app.files.get(found.fileSha256)
  const read = await app.pages.readSheet(found.name, bytes, reading, found.said)
  if (!read.ok) throw invalid(read.problem)
  await transaction(app, async (work) => {
    const { db } = work
    await lockSheet(db, id)
    const mended = await db
      .select({ row: sheetRow.row, cells: sheetRow.cells, mended: sheetRow.mended })
      .from(sheetRow)
      .where(and(eq(sheetRow.sheetId, id), sql`${sheetRow.mended} <> '{}'::jsonb`))
    const kept = new Map(
      mended.map((each) => [
        each.row,
        Object.keys(each.mended).map((at) => ({
          column: found.columns[Number(at)]?.name ?? '',
          cell: each.cells[Number(at)] ?? null,
        })),
      ]),
    )
    await db.delete(sheetRow).where(eq(sheetRow.sheetId, id))
    await insertRows(
      db,
      id,
      read.rows.map((row) => withMended(row, read.columns, kept.get(row.row) ?? [])),
    )
    await db.update(sheet).set(asRead(read)).where(eq(sheet.id, id))
    if (kept.size) await describeAgain(db, id, null)
    await checkAgain(work, id)
  })
  return readSheet(app, id)
}

/** A row read anew, in which what was mended stays mended; what is there now comes back with the mending. */
export function withMended(
  row: DataRow,
  columns: readonly Pick<Column, 'name'>[],
  cells: readonly { readonly column: string; readonly cell: Cell }[],
): NewRow {
  const mended: Record<string, Cell> = {}
  const now = [...row.cells]
  for (const { column, cell } of cells) {
    const at = columns.findIndex(({ name }) => name === column)
    if (at < 0) continue
    mended[at] = now[at] ?? null
    put(now, at, cell)
  }
  return { ...row, cells: now, mended }
}

/** Puts a cell into a row that may be shorter. */
function put(cells: Cell[], at: number, cell: Cell): void {
  while (cells.length < at) cells.push(null)
  cells[at] = cell
}

/** Says what a column holds, or takes that back; null leaves it to the cells. */
export async function sayColumn(
  app: App,
  id: string,
  { column, type, dateOrder }: v.InferOutput<typeof columnChange>,
): Promise<Sheet> {
  await transaction(app, async (work) => {
    const found = await lockSheet(work.db, id)
    if (!found.columns.some(({ name }) => name === column)) throw invalid(`There is no column “${column}”.`)
    const { type: saidType, dateOrder: saidOrder } = found.said[column] ?? {}
    const next = {
      type: type === undefined ? saidType : (type ?? undefined),
      dateOrder: dateOrder === undefined ? saidOrder : (dateOrder ?? undefined),
    }
    const said: Record<string, Said> = { ...found.said, [column]: next }
    await work.db.update(sheet).set({ said }).where(eq(sheet.id, id))
    await describeAgain(work.db, id, new Set([column]))
    await checkAgain(work, id)
  })
  await checkAtOnce(app, eq(run.sheetId, id))
  return readSheet(app, id)
}

/** Mends cells in place; what the file had is kept beside them and comes back with a null. */
export async function mendCells(
  app: App,
  id: string,
  { cells }: v.InferOutput<typeof mending>,
): Promise<Sheet> {
  await transaction(app, async (work) => {
    await putCells(work.db, id, cells)
    await checkAgain(work, id)
  })
  await checkAtOnce(app, eq(run.sheetId, id))
  return readSheet(app, id)
}

async function putCells(db: Db, id: string, cells: v.InferOutput<typeof mending>['cells']): Promise<void> {
  const { columns } = await lockSheet(db, id)
  for (const { row, column, value } of cells) {
    const at = columns.findIndex(({ name }) => name === column)
    if (at < 0) throw invalid(`There is no column “${column}”.`)
    const [found] = await db
      .select()
      .from(sheetRow)
      .where(and(eq(sheetRow.sheetId, id), eq(sheetRow.row, row)))
    if (!found) throw invalid(`There is no row ${row}.`)
    const now = [...found.cells]
    const { [at]: before, ...others } = found.mended
    const first = before === undefined ? (found.cells[at] ?? null) : before
    put(now, at, value === null ? first : value === '' ? null : value)
    const back = value === null || cellText(now[at] ?? null) === cellText(first)
    if (back) put(now, at, first)
    await db
      .update(sheetRow)
      .set({ cells: now, mended: back ? others : { ...others, [at]: first } })
      .where(and(eq(sheetRow.sheetId, id), eq(sheetRow.row, row)))
  }
  await describeAgain(db, id, new Set(cells.map(({ column }) => column)))
}

export async function lockSheet(db: Db, id: string) {
  const [found] = await db
    .select({ columns: sheet.columns, said: sheet.said })
    .from(sheet)
    .where(eq(sheet.id, id))
    .for('update')
  if (!found) throw notFound('sheet')
  return found
}

/** Types columns again from their cells as they are now; null: all of them. */
export async function describeAgain(db: Db, id: string, names: ReadonlySet<string> | null): Promise<void> {
  const [found] = await db
    .select({ columns: sheet.columns, said: sheet.said })
    .from(sheet)
    .where(eq(sheet.id, id))
  const columns = [...found!.columns]
  for (const [at, column] of columns.entries()) {
    if (names && !names.has(column.name)) continue
    const cells = await db
      .select({ row: sheetRow.row, cell: sql<Cell>`${sheetRow.cells}->${sql.raw(String(at))}` })
      .from(sheetRow)
      .where(and(eq(sheetRow.sheetId, id), isNull(sheetRow.aside)))
      .orderBy(asc(sheetRow.row))
    columns[at] = describeColumn(
      column.name,
      cells.map(({ cell }) => cell ?? null),
      { rows: cells.map(({ row }) => row), said: found!.said[column.name] ?? {} },
    )
  }
  await db.update(sheet).set({ columns }).where(eq(sheet.id, id))
}
