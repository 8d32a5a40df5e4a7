import { and, desc, eq, sql } from 'drizzle-orm'
import { mappingProblems, readRow, type RowProblem, ROWS_LOOKED_AT } from '#core/mapping/apply.ts'
import { type Drift, recallMapping } from '#core/mapping/remember.ts'
import { mappingKey } from '#core/mapping/key.ts'
import { type Mapping, suggestMapping } from '#core/mapping/suggest.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import type { Outline } from '#core/outline/field.ts'
import type { Column } from '#core/sheet/columns.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { mapping, mappingMemory } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { invalid } from '#server/ground/problem.ts'
import { rowLabel } from '#core/run/label.ts'
import { columnsOf, ROWS_AT_ONCE, rowPages, rowsAfter } from './sheet-rows.ts'
import { draftOf } from './sheets.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

export interface CurrentMapping {
  readonly columns: readonly Column[]
  readonly suggested: Mapping
  /** What somebody saved for this sheet; null: nobody did. */
  readonly saved: Mapping | null
  readonly inForce: Mapping
  readonly drift: readonly Drift[]
  readonly remembered: boolean
}

/** The mapping in force: the one somebody saved, else the one last used with such a source, else the suggestion. */
export async function currentMapping(
  app: App,
  sheetId: string,
  supplied: Outline,
  templateId: string,
  grouped = false,
): Promise<CurrentMapping> {
  const columns = await columnsOf(app.db, sheetId)
  const [saved] = await app.db
    .select()
    .from(mapping)
    .where(and(eq(mapping.sheetId, sheetId), eq(mapping.templateId, templateId)))
  const { suggested, ...recalled } = await suggestedMapping(app, columns, supplied, templateId, grouped)
  return {
    columns,
    suggested,
    saved: saved?.columns ?? null,
    inForce: saved?.columns ?? suggested,
    ...recalled,
  }
}

/** Which of a source's columns feed a template, as far as nobody has said: as such columns did before, else by their names. */
export async function suggestedMapping(
  app: App,
  columns: readonly Column[],
  supplied: Outline,
  templateId: string,
  grouped = false,
): Promise<Pick<CurrentMapping, 'suggested' | 'drift' | 'remembered'>> {
  const { synonyms } = await organisationOf(app.db)
  const fresh = suggestMapping(supplied, columns, { grouped, own: synonyms })
  const memories = await app.db
    .select()
    .from(mappingMemory)
    .where(eq(mappingMemory.templateId, templateId))
    .orderBy(desc(mappingMemory.usedAt))
    .limit(20)
  const recalled = recallMapping(
    supplied,
    columns,
    memories.map(({ columnNames, columns: remembered }) => ({ columnNames, mapping: remembered })),
  )
  // What was used before goes first; a column that it does not use may still feed a field that had none.
  const suggested = recalled ? { ...withoutTaken(fresh, recalled.mapping), ...recalled.mapping } : fresh
  return { suggested, drift: recalled?.drift ?? [], remembered: recalled !== null }
}

const withoutTaken = (fresh: Mapping, taken: Mapping): Mapping => {
  const used = new Set(Object.values(taken))
  return Object.fromEntries(Object.entries(fresh).filter(([, column]) => !used.has(column)))
}

/** A mapping with everything it leads to: columns that cannot be right, and the rows that would need a hand. */
export async function readMapping(app: App, sheetId: string, templateId: string) {
  const content = await draftOf(app, templateId)
  const supplied = suppliedFields(content)
  const { columns, suggested, saved, inForce, drift, remembered } = await currentMapping(
    app,
    sheetId,
    supplied,
    templateId,
  )
  const rowsWithProblems: { row: number; label: string; problems: RowProblem[] }[] = []
  let rowCount = 0
  for await (const rows of rowPages(app.db, sheetId, ROWS_AT_ONCE, (each) => each)) {
    rowCount += rows.length
    for (const { row, cells } of rows) {
      const { data, problems } = readRow(supplied, columns, inForce, cells)
      if (problems.length)
        rowsWithProblems.push({ row, label: rowLabel(content, data, row), problems: [...problems] })
    }
  }
  return {
    columns: inForce,
    saved: saved !== null,
    suggested,
    faults: await faultsOf(app.db, sheetId, supplied, columns, inForce),
    rowsWithProblems,
    rowCount,
    drift: [...drift],
    remembered,
  }
}

/** Columns of a mapping that cannot be right, by the first rows of the sheet. */
export async function faultsOf(
  db: Db,
  sheetId: string,
  supplied: Outline,
  columns: readonly Column[],
  inForce: Mapping,
) {
  const rows = await rowsAfter(db, sheetId, 0, ROWS_LOOKED_AT)
  return [
    ...mappingProblems(
      supplied,
      columns,
      inForce,
      rows.map(({ cells }) => cells),
    ),
  ]
}

/** Refuses a mapping of fields or columns that are not there. */
export function checkMapping(supplied: Outline, columns: readonly Column[], wanted: Mapping): void {
  const known = new Set(columns.map(({ name }) => name))
  for (const [field, column] of Object.entries(wanted)) {
    if (!mappingKey(supplied, field)) throw invalid(`There is no field “${field}”.`)
    if (!known.has(column)) throw invalid(`There is no column “${column}”.`)
  }
}

export async function saveMapping(
  app: App,
  by: Person,
  sheetId: string,
  templateId: string,
  wanted: Mapping,
) {
  await requireMay(app, by, 'runs')
  const content = await draftOf(app, templateId)
  const columns = await columnsOf(app.db, sheetId)
  checkMapping(suppliedFields(content), columns, wanted)
  await keepMapping(app, sheetId, templateId, columns, wanted)
  return readMapping(app, sheetId, templateId)
}

/** Keeps a mapping for its sheet, and for the next source of the same shape. */
export async function keepMapping(
  { db, now }: Ground,
  sheetId: string,
  templateId: string,
  columns: readonly Column[],
  wanted: Mapping,
): Promise<void> {
  await db
    .insert(mapping)
    .values({ sheetId, templateId, columns: wanted })
    .onConflictDoUpdate({ target: [mapping.sheetId, mapping.templateId], set: { columns: wanted } })
  const columnNames = columns.map(({ name }) => name)
  const memory = { columnNames, columns: wanted, usedAt: now() }
  await db
    .insert(mappingMemory)
    .values({ templateId, shape: sha256(JSON.stringify(columnNames)), ...memory })
    .onConflictDoUpdate({ target: [mappingMemory.templateId, mappingMemory.shape], set: memory })
}

/** A copy of a template is fed as its original is: from the same sheets, and from the next of their shapes. */
export async function copyMappings(db: Db, from: string, to: string): Promise<void> {
  await db.execute(
    sql`insert into ${mapping} (sheet_id, template_id, columns)
      select sheet_id, ${to}::uuid, columns from ${mapping} where template_id = ${from} on conflict do nothing`,
  )
  await db.execute(
    sql`insert into ${mappingMemory} (template_id, shape, column_names, columns, used_at)
      select ${to}::uuid, shape, column_names, columns, used_at from ${mappingMemory}
      where template_id = ${from} on conflict do nothing`,
  )
}
