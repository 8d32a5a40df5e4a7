import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { columnChange, mending, readingSchema } from '#contract/sheet.ts'
import { type Cell, cellText } from '#core/outline/cell.ts'
import { type Column, describeColumn, type Said } from '#core/sheet/columns.ts'
import type { DataRow } from '#core/sheet/table.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { run, sheet, sheetRow } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { checkAgain, checkAtOnce } from './run-check.ts'
import { asRead, insertPacks, type NewRow, readSheet, type Sheet } from '#server/services/sheets/sheets.ts'

/** Reads the file another way. What was mended stays mended where its row and column are there again. */
export async function readAgain(
  app: App,
  by: Person,
  id: string,
  reading: v.InferOutput<typeof readingSchema>,
): Promise<Sheet> {
  await requireMay(app, by, 'runs')
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
    await insertPacks(db, id, read.packs)
    await db.update(sheet).set(asRead(read)).where(eq(sheet.id, id))
    for (const [row, cells] of kept) await mendAgain(db, id, row, read.columns, cells)
    if (kept.size) await describeAgain(db, id, null)
    await checkAgain(work, id, by)
  })
  return readSheet(app, id)
}

/** Mends a row again that was mended before the file was read anew; one that is not there any more is passed over. */
async function mendAgain(
  db: Db,
  id: string,
  row: number,
  columns: readonly Pick<Column, 'name'>[],
  cells: Parameters<typeof withMended>[2],
): Promise<void> {
  const here = and(eq(sheetRow.sheetId, id), eq(sheetRow.row, row))
  const [found] = await db.select().from(sheetRow).where(here)
  if (!found) return
  const { cells: now, mended } = withMended(found, columns, cells)
  await db
    .update(sheetRow)
    .set({ cells: now, mended: mended ?? {} })
    .where(here)
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

/** What stands under a name that came from outside; nothing that every object has by itself. */
const ownOf = <T>(record: Readonly<Record<string, T>>, name: string): T | undefined =>
  Object.hasOwn(record, name) ? record[name] : undefined

/** Puts a cell into a row that may be shorter. */
function put(cells: Cell[], at: number, cell: Cell): void {
  while (cells.length < at) cells.push(null)
  cells[at] = cell
}

/** Says what a column holds, or takes that back; null leaves it to the cells. */
export async function sayColumn(
  app: App,
  by: Person,
  id: string,
  { column, type, dateOrder }: v.InferOutput<typeof columnChange>,
): Promise<Sheet> {
  await requireMay(app, by, 'runs')
  await transaction(app, async (work) => {
    const found = await lockSheet(work.db, id)
    if (!found.columns.some(({ name }) => name === column)) throw invalid(`There is no column “${column}”.`)
    const { type: saidType, dateOrder: saidOrder } = ownOf(found.said, column) ?? {}
    const next = {
      type: type === undefined ? saidType : (type ?? undefined),
      dateOrder: dateOrder === undefined ? saidOrder : (dateOrder ?? undefined),
    }
    const said: Record<string, Said> = { ...found.said, [column]: next }
    await work.db.update(sheet).set({ said }).where(eq(sheet.id, id))
    await describeAgain(work.db, id, new Set([column]))
    await checkAgain(work, id, by)
  })
  await checkAtOnce(app, eq(run.sheetId, id))
  return readSheet(app, id)
}

/** Mends cells in place; what the file had is kept beside them and comes back with a null. */
export async function mendCells(
  app: App,
  by: Person,
  id: string,
  { cells }: v.InferOutput<typeof mending>,
): Promise<Sheet> {
  await requireMay(app, by, 'runs')
  await transaction(app, async (work) => {
    await putCells(work.db, id, cells)
    await checkAgain(work, id, by)
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

/** A sheet’s columns, its row locked until the transaction ends. */
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
  const found = one(
    await db.select({ columns: sheet.columns, said: sheet.said }).from(sheet).where(eq(sheet.id, id)),
  )
  const columns = [...found.columns]
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
      { rows: cells.map(({ row }) => row), said: ownOf(found.said, column.name) ?? {} },
    )
  }
  await db.update(sheet).set({ columns }).where(eq(sheet.id, id))
}
