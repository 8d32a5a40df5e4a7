import { randomUUID } from 'node:crypto'
import { and, asc, count, desc, eq, inArray } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { RunSummary } from '#contract/run.ts'
import { passageTitle } from '#core/document/walk.ts'
import { mappingProblems, readRow } from '#core/mapping/apply.ts'
import type { RowProblem } from '#core/mapping/apply.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { senderData, suppliedFields } from '#core/merge/fields.ts'
import { merge } from '#core/merge/merge.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import type { ReadyTemplate } from '#core/merge/prepare.ts'
import type { Rule } from '#core/routing/route.ts'
import { groupWordings } from '#core/wording/group.ts'
import type { App } from '#server/app.ts'
import { agreement, edition, person, run, runRow, sheet, template } from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import { SENDER } from '#server/post/mailer.ts'
import { conflict, invalid, notFound } from '#server/problem.ts'
import { drawDocument, lookOf } from './drawing.ts'
import { rowLabel } from './row-label.ts'
import { activeRules, routeRecord } from './rules.ts'
import { requireRight } from './shelves.ts'
import { allRows, currentMapping } from './sheets.ts'
import { latestEdition } from './templates.ts'

/** Sets up a run of the template's newest edition over a sheet; its rows are checked by a job at once. */
export async function startRun(app: App, by: Person, name: string, templateId: string, sheetId: string) {
  await requireRight(app.db, by, templateId, 'use')
  const from = await latestEdition(app, templateId)
  const { columns, inForce } = await currentMapping(app, sheetId, from.content, templateId)
  const rows = await allRows(app, sheetId)
  const faults = mappingProblems(
    suppliedFields(from.content),
    columns,
    inForce,
    rows.map(({ cells }) => cells),
  )
  if (faults.length)
    throw invalid(
      faults[0]!.message,
      faults.map(({ field, message }) => ({ pointer: `/mapping/${field}`, detail: message })),
    )
  const id = randomUUID()
  await transaction(app, async ({ db, enqueue }) => {
    await db.insert(run).values({
      id,
      name,
      editionId: from.id,
      sheetId,
      mapping: inForce,
      state: 'checking',
      createdAt: app.now(),
      createdBy: by.id,
    })
    await enqueue('check-run', { runId: id })
  })
  return { id }
}

/** A published edition that can be merged; an edition with faults cannot have been published. */
export async function readyEdition(app: App, editionId: string) {
  const [found] = await app.db
    .select()
    .from(edition)
    .innerJoin(template, eq(template.id, edition.templateId))
    .where(eq(edition.id, editionId))
  const prepared = found && prepareTemplate(found.edition.content)
  if (!prepared?.ok) throw new Error(`Edition ${editionId} cannot be merged.`)
  return { ready: prepared.ready, edition: found!.edition, template: found!.template }
}

/** Whoever sends, as data of the roles they fill. */
export const senderOf = (content: TemplateContent, sender: { name: string; email: string; post: string }) =>
  senderData(content, {
    name: sender.name,
    email: sender.email,
    title: sender.post,
    company: SENDER.name,
  })

/** Job: reads and checks every row of a run. Doing it again gives the same rows. */
export async function checkRun(app: App, runId: string): Promise<void> {
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found || found.state !== 'checking') return
  const { ready } = await readyEdition(app, found.editionId)
  const [{ columns } = { columns: [] }] = await app.db
    .select({ columns: sheet.columns })
    .from(sheet)
    .where(eq(sheet.id, found.sheetId))
  const rules = await activeRules(app.db)
  const [sender] = await app.db.select().from(person).where(eq(person.id, found.createdBy))
  const given = sender ? senderOf(ready.content, sender) : {}
  const supplied = suppliedFields(ready.content)
  const rows = (await allRows(app, found.sheetId)).map(({ row, cells }) => {
    const read = readRow(supplied, columns, found.mapping, cells)
    return { runId, row, ...checkRow(ready, rules, { ...read.data, ...given }, read.problems, row) }
  })
  await transaction(app, async ({ db }) => {
    const [locked] = await db.select({ state: run.state }).from(run).where(eq(run.id, runId)).for('update')
    if (locked?.state !== 'checking') return
    await db.delete(runRow).where(eq(runRow.runId, runId))
    for (let from = 0; from < rows.length; from += 500)
      await db.insert(runRow).values(rows.slice(from, from + 500))
    await db.update(run).set({ state: 'checked' }).where(eq(run.id, runId))
  })
}

function checkRow(
  ready: ReadyTemplate,
  rules: readonly Rule[],
  data: RowData,
  found: readonly RowProblem[],
  row: number,
) {
  const merged = merge(ready, data, null)
  const routed = routeRecord(rules, ready, data)
  const told = new Set(found.map(({ field }) => field))
  const problems: RowProblem[] = [...found]
  for (const { field, block, message } of merged.problems) {
    if (problems.some((problem) => problem.message === message)) continue
    // What follows from a value already told as missing or wrong would only repeat it.
    const needs = field !== null ? [field] : block !== null ? (ready.conditions.get(block)?.reads ?? []) : []
    if (!needs.some((name) => dependsOn(ready, name, told)))
      problems.push({ field: field ?? '', column: null, message })
  }
  if (!routed.ok && problems.length === 0) problems.push({ field: '', column: null, message: routed.problem })
  return {
    label: rowLabel(ready.content, data, row),
    state: problems.length ? ('needs a hand' as const) : ('ready' as const),
    data,
    problems,
    wording: merged.wording,
    approvals: routed.ok ? routed.steps.map(({ approver, reason }) => ({ approver, reason })) : [],
  }
}
type RowData = Parameters<typeof merge>[1]

/** Whether a field is one of those named, or is computed from one of them, over however many steps. */
const dependsOn = (ready: ReadyTemplate, name: string, named: ReadonlySet<string>): boolean =>
  named.has(name) ||
  (ready.outline.computed
    .find(({ field }) => field.name === name)
    ?.reads.some((read) => dependsOn(ready, read, named)) ??
    false)

const EMPTY = { ready: 0, hand: 0, made: 0, failed: 0 }
const slot = { ready: 'ready', 'needs a hand': 'hand', made: 'made', failed: 'failed' } as const

async function rowCounts(app: App, runIds: readonly string[]) {
  const counts = new Map<string, RunSummary['rows']>()
  if (runIds.length === 0) return counts
  const found = await app.db
    .select({ runId: runRow.runId, state: runRow.state, rows: count() })
    .from(runRow)
    .where(inArray(runRow.runId, [...runIds]))
    .groupBy(runRow.runId, runRow.state)
  for (const { runId, state, rows } of found)
    counts.set(runId, { ...(counts.get(runId) ?? EMPTY), [slot[state]]: rows })
  return counts
}

const summaries = (app: App) =>
  app.db
    .select({ run, template: template.name, edition: edition.number, sheet: sheet.name, by: person.name })
    .from(run)
    .innerJoin(edition, eq(edition.id, run.editionId))
    .innerJoin(template, eq(template.id, edition.templateId))
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .innerJoin(person, eq(person.id, run.createdBy))

type Found = Awaited<ReturnType<typeof summaries>>[number]

const shape = (found: Found, rows: RunSummary['rows'] | undefined): RunSummary => ({
  id: found.run.id,
  name: found.run.name,
  state: found.run.state,
  problem: found.run.problem,
  template: found.template,
  edition: found.edition,
  sheet: found.sheet,
  createdAt: found.run.createdAt.toISOString(),
  createdBy: found.by,
  rows: rows ?? EMPTY,
  generateStartedAt: found.run.generateStartedAt?.toISOString() ?? null,
  generateEndedAt: found.run.generateEndedAt?.toISOString() ?? null,
})

export async function listRuns(app: App) {
  const found = await summaries(app).orderBy(desc(run.createdAt)).limit(500)
  const counts = await rowCounts(
    app,
    found.map((row) => row.run.id),
  )
  return found.map((row) => shape(row, counts.get(row.run.id)))
}

export async function readRun(app: App, id: string) {
  const [found] = await summaries(app).where(eq(run.id, id))
  if (!found) throw notFound('run')
  return shape(found, (await rowCounts(app, [id])).get(id))
}

export async function runRows(app: App, id: string) {
  await readRun(app, id)
  const rows = await app.db
    .select({ row: runRow, agreementId: agreement.id, number: agreement.number })
    .from(runRow)
    .leftJoin(agreement, and(eq(agreement.runId, runRow.runId), eq(agreement.row, runRow.row)))
    .where(eq(runRow.runId, id))
    .orderBy(asc(runRow.row))
  return rows.map(({ row, agreementId, number }) => ({
    row: row.row,
    label: row.label,
    state: row.state,
    problems: [...row.problems],
    wording: row.wording,
    approvals: [...row.approvals],
    agreementId,
    number,
  }))
}

/** The wordings of the rows that can be made; passages are named by their titles. */
export async function runWordings(app: App, id: string) {
  const [found] = await app.db.select({ editionId: run.editionId }).from(run).where(eq(run.id, id))
  if (!found) throw notFound('run')
  const { ready } = await readyEdition(app, found.editionId)
  const titles = new Map(ready.conditional.map((block) => [block.attrs.id, passageTitle(block)]))
  const rows = (await runRows(app, id)).filter(({ state }) => state !== 'needs a hand')
  const named = (ids: readonly string[]) => ids.map((blockId) => titles.get(blockId) ?? blockId)
  return groupWordings(rows.map(({ row, wording }) => ({ row, key: wording }))).map((wording) => ({
    key: wording.key,
    rows: [...wording.rows],
    kept: named(wording.kept),
    added: named(wording.added),
    left: named(wording.left),
    standard: wording.standard,
    firstRowLabel: rows.find(({ row }) => row === wording.rows[0])?.label ?? '',
  }))
}

/** The finished pages of one row as they would be made, without a number. */
export async function rowProof(app: App, id: string, row: number): Promise<Uint8Array> {
  const [found] = await app.db
    .select({ editionId: run.editionId, data: runRow.data })
    .from(runRow)
    .innerJoin(run, eq(run.id, runRow.runId))
    .where(and(eq(runRow.runId, id), eq(runRow.row, row)))
  if (!found) throw notFound('row')
  const { ready } = await readyEdition(app, found.editionId)
  const { document } = merge(ready, found.data, null)
  const look = await lookOf(app, ready.content.look)
  return (await drawDocument(app, document, look, { proof: true, at: new Date(0) })).pdf
}

/** Begins or goes on making; rows that failed before are tried again. Asking twice changes nothing. */
export async function generate(app: App, id: string): Promise<void> {
  await transaction(app, async ({ db, enqueue }) => {
    const [found] = await db.select().from(run).where(eq(run.id, id)).for('update')
    if (!found) throw notFound('run')
    if (found.state === 'generating') return
    if (found.state === 'checking') throw conflict('The rows are still being checked.')
    await db
      .update(runRow)
      .set({ state: 'ready', problems: [] })
      .where(and(eq(runRow.runId, id), eq(runRow.state, 'failed')))
    const [ready] = await db
      .select({ rows: count() })
      .from(runRow)
      .where(and(eq(runRow.runId, id), eq(runRow.state, 'ready')))
    if (!ready?.rows) throw conflict('No row is ready to be made.')
    await db
      .update(run)
      .set({
        state: 'generating',
        generateStartedAt: found.generateStartedAt ?? app.now(),
        generateEndedAt: null,
      })
      .where(eq(run.id, id))
    await enqueue('generate-run', { runId: id })
  })
}

/** Stops after the rows in hand; `generate` goes on. */
export async function pauseRun(app: App, id: string): Promise<void> {
  const paused = await app.db
    .update(run)
    .set({ state: 'paused' })
    .where(and(eq(run.id, id), eq(run.state, 'generating')))
    .returning({ id: run.id })
  if (!paused.length) throw conflict('This run is not being made just now.')
}

/** Name under which each made document leaves: unique within the run. */
export async function archiveFiles(app: App, id: string) {
  await readRun(app, id)
  return app.db
    .select({ id: agreement.id, fileName: agreement.fileName, number: agreement.number })
    .from(agreement)
    .where(eq(agreement.runId, id))
    .orderBy(asc(agreement.number))
}
