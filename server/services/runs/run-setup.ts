import { randomUUID } from 'node:crypto'
import { and, desc, eq, inArray, ne, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { rowAnswers, rowsDecided, runChange, runSetupView, runStart } from '#contract/run.ts'
import { numberText } from '#core/agreement/number.ts'
import { bundleFields } from '#core/packet/bundle.ts'
import { readItemKey } from '#core/mapping/key.ts'
import { type Mapping, suggestMapping, type Synonyms } from '#core/mapping/suggest.ts'
import { type Field, fieldsAndLists, type Outline } from '#core/outline/field.ts'
import { coerce } from '#core/outline/coerce.ts'
import { columnFields, compileRule } from '#core/run/rule.ts'
import { plainSetup, type RunSetup } from '#core/run/setup.ts'
import type { Column } from '#core/sheet/columns.ts'
import { fileName as namePattern } from '#core/text/pattern.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { edition, run, runFile, runRow, series, sheet } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { bundleOfRun, chosenBundle } from '#server/services/templates/editions.ts'
import { checkMapping, currentMapping, faultsOf, keepMapping } from '#server/services/sheets/mappings.ts'
import { labelField } from '#core/run/label.ts'
import { knownBy } from './known-by.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { askForCheck, checkAtOnce, withShaper } from './run-check.ts'
import { shownFields, tellingFields } from './row-values.ts'
import { columnsOf } from '#server/services/sheets/sheet-rows.ts'
import { shownColumn } from '#server/services/sheets/sheets.ts'
import { transitionRun } from './transition-run.ts'

/** Sets up a run of the newest editions over a sheet; its rows are checked by a job at once. */
export async function startRun(
  app: App,
  by: Person,
  asked: v.InferOutput<typeof runStart>,
  id: string = randomUUID(),
) {
  await requireMay(app, by, 'runs')
  const { made, bundle, templateId } = await chosenBundle(app, by, asked)
  const setup = asked.setup ?? (await lastSetup(app, templateId, asked.sheetId))
  const fields = bundleFields(bundle)
  const { columns, inForce, drift } = await currentMapping(
    app,
    asked.sheetId,
    fields,
    templateId,
    isGrouped(setup),
  )
  checkSetup(fields, columns, setup)
  await transaction(app, async (work) => {
    const { db, enqueue } = work
    await db.insert(run).values({
      id,
      name: asked.name,
      ...made,
      sheetId: asked.sheetId,
      mapping: inForce,
      setup,
      drift,
      state: 'checking',
      createdAt: work.now(),
      createdBy: by.id,
      shapedBy: [by.id],
    })
    await keepMapping(work, asked.sheetId, templateId, columns, inForce)
    await enqueue('check-run', { runId: id })
  })
  await checkAtOnce(app, eq(run.id, id))
  return { id }
}

/** Runs looked through for one of the same shape. */
const REMEMBERED = 20

/**
 * How rows were taken by the last run of the template from a source with the same columns: what was said once of such
 * sheets need not be said again. Values and answers belong to their run.
 */
async function lastSetup(app: App, templateId: string, sheetId: string): Promise<RunSetup> {
  const names = (await columnsOf(app.db, sheetId)).map(({ name }) => name)
  const runs = await app.db
    .select({ setup: run.setup, columns: sheet.columns })
    .from(run)
    .innerJoin(edition, eq(edition.id, run.editionId))
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .where(and(eq(edition.templateId, templateId), sql`cardinality(${run.packetEditions}) = 0`))
    .orderBy(desc(run.createdAt))
    .limit(REMEMBERED)
  const last = runs.find(
    ({ columns }) => columns.length === names.length && columns.every(({ name }, i) => name === names[i]),
  )
  if (!last) return plainSetup
  const { rule, groupBy, languageColumn, copiesColumn, fileColumn, fileName, duplicates, sameBy } = last.setup
  return {
    ...plainSetup,
    rule,
    groupBy,
    languageColumn,
    copiesColumn,
    fileColumn,
    fileName,
    duplicates,
    sameBy,
  }
}

const isGrouped = (setup: RunSetup): boolean => setup.groupBy.length > 0

/** A set-up that names what is not there, or a rule that is faulty, is refused with the place of the fault. */
function checkSetup(fields: Outline, columns: readonly Column[], setup: RunSetup): void {
  const names = new Set(columns.map(({ name }) => name))
  const column = (name: string | null, pointer: string) => {
    if (name !== null && !names.has(name))
      throw invalid(`There is no column “${name}”.`, [{ pointer, detail: 'There is no such column.' }])
  }
  setup.groupBy.forEach((name, i) => column(name, `/setup/groupBy/${i}`))
  if (setup.sameBy && 'column' in setup.sameBy) column(setup.sameBy.column, '/setup/sameBy')
  column(setup.languageColumn, '/setup/languageColumn')
  column(setup.copiesColumn, '/setup/copiesColumn')
  column(setup.fileColumn, '/setup/fileColumn')
  if (setup.rule) {
    const rule = compileRule(setup.rule, columns)
    if (!rule.ok) throw invalid(rule.problem, [{ pointer: '/setup/rule', detail: rule.problem }])
  }
  const known = fieldsAndLists(fields)
  for (const name of setup.askRows) if (!known.has(name)) throw invalid(`There is no field “${name}”.`)
  for (const [name, text] of Object.entries(setup.values)) checkValue(known, name, text)
}

function checkValue(known: ReadonlyMap<string, Field>, name: string, text: string): void {
  const field = known.get(name)
  if (!field) throw invalid(`There is no field “${name}”.`)
  const read = coerce(field, text, null)
  if (!read.ok)
    throw invalid(`“${field.label}”: ${read.problem}`, [
      { pointer: `/setup/values/${name}`, detail: read.problem },
    ])
}

export async function readSetup(app: App, id: string): Promise<v.InferOutput<typeof runSetupView>> {
  const [found] = await app.db.select().from(run).where(eq(run.id, id))
  if (!found) throw notFound('run')
  const bundle = await bundleOfRun(app, found)
  const { templateId } = bundle.editions[0]!
  const fields = bundleFields(bundle)
  const current = await currentMapping(app, found.sheetId, fields, templateId, isGrouped(found.setup))
  const rule = found.setup.rule ? compileRule(found.setup.rule, current.columns) : null
  const [counted] = await app.db
    .select({ pattern: series.pattern, last: series.lastNumber })
    .from(series)
    .where(eq(series.id, bundle.editions[0]!.seriesId))
  const known = await knownBy(app.db, found, current.columns, labelField(bundle.parts[0].content))
  const files = await app.db.select({ name: runFile.name }).from(runFile).where(eq(runFile.runId, id))
  return {
    templateId,
    mapping: found.mapping,
    suggested: current.suggested,
    remembered: current.remembered,
    drift: [...found.drift],
    setup: {
      ...found.setup,
      groupBy: [...found.setup.groupBy],
      askRows: [...found.setup.askRows],
    },
    fields: fields.flatMap((field) => [
      shown(field, null),
      ...(field.items ?? [])
        .filter(({ computed }) => computed === undefined)
        .map((item) => shown(item, field.name)),
    ]),
    telling: tellingFields(bundle),
    shown: shownFields(bundle).map(({ name, label, type }) => ({ name, label, type })),
    columns: current.columns.map(shownColumn),
    columnFields: columnFields(current.columns).map(({ name, label, type, required, choices }) => ({
      name,
      label,
      type,
      required,
      ...(choices ? { choices: [...choices] } : {}),
    })),
    faults: await faultsOf(app.db, found.sheetId, fields, current.columns, found.mapping),
    ruleProblem: rule && !rule.ok ? rule.problem : null,
    knownBy: { ...known.by, found: known.found },
    files: files.map(({ name }) => name),
    nextNumber: counted ? numberText(counted.pattern, counted.last + 1) : '',
    locked: found.state === 'generating',
  }
}

const shown = (field: Field, list: string | null) => ({
  name: field.name,
  label: field.label,
  type: field.type,
  required: field.required,
  list,
  help: field.help ?? null,
  example: field.example ?? null,
  default: field.default ?? null,
  choices: field.choices ? [...field.choices] : null,
})

/** Changes how the rows are taken; they are checked again at once. Nothing of what was made changes. */
export async function changeRun(
  app: App,
  by: Person,
  id: string,
  change: v.InferOutput<typeof runChange>,
): Promise<void> {
  await requireMay(app, by, 'runs')
  const [found] = await app.db.select().from(run).where(eq(run.id, id))
  if (!found) throw notFound('run')
  const bundle = await bundleOfRun(app, found)
  const columns = await columnsOf(app.db, found.sheetId)
  const fields = bundleFields(bundle)
  const { synonyms } = await organisationOf(app.db)
  if (change.mapping) checkMapping(fields, columns, change.mapping)
  if (change.setup) checkSetup(fields, columns, change.setup)
  await transaction(app, async (work) => {
    await transitionRun(work.db, id, 'shape')
    const grouped = isGrouped(change.setup ?? found.setup)
    const mapping =
      change.mapping ??
      (grouped === isGrouped(found.setup)
        ? found.mapping
        : regroupedMapping(fields, columns, found.mapping, grouped, synonyms))
    await work.db
      .update(run)
      .set({
        ...(change.name ? { name: change.name } : {}),
        ...(change.setup ? { setup: change.setup } : {}),
        mapping,
        ...(change.mapping || change.setup ? { shapedBy: withShaper(by) } : {}),
        version: sql`${run.version} + 1`,
      })
      .where(eq(run.id, id))
    if (!change.mapping && !change.setup) return
    await keepMapping(work, found.sheetId, bundle.editions[0]!.templateId, columns, mapping)
    await askForCheck(work, id)
  })
  await checkAtOnce(app, eq(run.id, id))
}

/** Lists are fed anew when rows are grouped, or are not any more; plain fields keep their columns. */
function regroupedMapping(
  fields: Outline,
  columns: readonly Column[],
  before: Mapping,
  grouped: boolean,
  own: Synonyms,
): Mapping {
  const plain = Object.entries(before).filter(([key]) => readItemKey(key) === null)
  const used = new Set(plain.map(([, column]) => column))
  const lists = Object.entries(suggestMapping(fields, columns, { grouped, own })).filter(
    ([key, column]) => readItemKey(key) !== null && !used.has(column),
  )
  return Object.fromEntries([...plain, ...lists])
}

/** Changes what is said of a run's rows while nobody makes them, and has them checked again. */
async function changeRows(
  app: App,
  by: Person,
  id: string,
  act: (work: Work, found: typeof run.$inferSelect) => Promise<void>,
): Promise<void> {
  await requireMay(app, by, 'runs')
  await transaction(app, async (work) => {
    const found = await transitionRun(work.db, id, 'shape', {
      version: sql`${run.version} + 1`,
      shapedBy: withShaper(by),
    })
    await act(work, found)
    await askForCheck(work, id)
  })
  await checkAtOnce(app, eq(run.id, id))
}

/** Makes rows all the same, leaves them out, or takes either back. */
export const decideRows = (
  app: App,
  by: Person,
  id: string,
  { rows, decision }: v.InferOutput<typeof rowsDecided>,
): Promise<void> =>
  changeRows(app, by, id, async ({ db }) => {
    const decided = await db
      .update(runRow)
      .set({ decision })
      .where(and(eq(runRow.runId, id), inArray(runRow.row, rows), ne(runRow.state, 'made')))
      .returning({ row: runRow.row })
    if (decided.length === 0)
      throw conflict(
        rows.length === 1
          ? `Row ${rows[0]} is made already: its agreement can be withdrawn, the row cannot be left out any more.`
          : 'These rows are made already: their agreements can be withdrawn.',
      )
  })

export const answerRow = (
  app: App,
  by: Person,
  id: string,
  row: number,
  { answers }: v.InferOutput<typeof rowAnswers>,
): Promise<void> =>
  changeRows(app, by, id, async ({ db }, found) => {
    const known = fieldsAndLists(bundleFields(await bundleOfRun(app, found)))
    for (const [name, text] of Object.entries(answers)) checkValue(known, name, text)
    const [there] = await db
      .select({ answers: runRow.answers })
      .from(runRow)
      .where(and(eq(runRow.runId, id), eq(runRow.row, row)))
    if (!there) throw notFound('row')
    await db
      .update(runRow)
      .set({ answers: { ...there.answers, ...answers } })
      .where(and(eq(runRow.runId, id), eq(runRow.row, row)))
  })

/** Keeps a file that goes along with the rows that name it; one of the same name is replaced. */
export async function keepRunFile(
  app: App,
  by: Person,
  id: string,
  name: string,
  bytes: Uint8Array,
): Promise<void> {
  await requireMay(app, by, 'runs')
  const clean = /^(.*?)(\.\w{1,5})?$/.exec(name)!
  const kept = `${namePattern(clean[1]!)}${clean[2] ?? ''}`
  const stored = await app.files.store([bytes], 'application/octet-stream')
  const { sha256 } = stored[0]!
  await changeRows(app, by, id, async ({ db, files }) => {
    await files.record(stored)
    await db
      .insert(runFile)
      .values({ runId: id, name: kept, sha256 })
      .onConflictDoUpdate({ target: [runFile.runId, runFile.name], set: { sha256 } })
  })
}
