import { setTimeout as pause } from 'node:timers/promises'
import { and, asc, count, desc, eq, gt, inArray, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { RunSummary } from '#contract/run.ts'
import { passageTitle } from '#core/document/walk.ts'
import { type Bundle, bundleFields, mergeBundle, passageKey } from '#core/packet/bundle.ts'
import { groupWordings } from '#core/wording/group.ts'
import { tellingRows } from '#core/wording/typical.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import {
  agreement,
  claim,
  edition,
  person,
  run,
  runRow,
  sheet,
  template,
  wordingRead,
} from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, forbidden, invalid, notFound } from '#server/ground/problem.ts'
import { drawBundle } from '#server/services/templates/drawing.ts'
import { bundleOfRun } from '#server/services/templates/editions.ts'
import { faultsOf } from '#server/services/sheets/mappings.ts'
import { columnsOf } from '#server/services/sheets/sheet-rows.ts'
import { transitionRun } from './transition-run.ts'

const EMPTY: RunSummary['rows'] = {
  ready: 0,
  hand: 0,
  skipped: 0,
  made: 0,
  failed: 0,
  changed: 0,
  measured: 0,
}
const slot = {
  ready: 'ready',
  'needs a hand': 'hand',
  skipped: 'skipped',
  made: 'made',
  failed: 'failed',
} as const

async function rowCounts(app: App, runIds: readonly string[]) {
  const counts = new Map<string, RunSummary['rows']>()
  if (runIds.length === 0) return counts
  const found = await app.db
    .select({
      runId: runRow.runId,
      state: runRow.state,
      rows: count(),
      changed: count(runRow.changed),
      measured: count(runRow.pages),
    })
    .from(runRow)
    .where(inArray(runRow.runId, [...runIds]))
    .groupBy(runRow.runId, runRow.state)
  for (const { runId, state, rows, changed, measured } of found) {
    const before = counts.get(runId) ?? EMPTY
    counts.set(runId, {
      ...before,
      [slot[state]]: rows,
      changed: before.changed + changed,
      measured: before.measured + measured,
    })
  }
  return counts
}

const summaries = (app: App) =>
  app.db
    .select({
      run,
      template: template.name,
      edition: edition.number,
      sheet: sheet.name,
      sheetKind: sheet.kind,
      by: person.name,
    })
    .from(run)
    .innerJoin(edition, eq(edition.id, run.editionId))
    .innerJoin(template, eq(template.id, edition.templateId))
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .innerJoin(person, eq(person.id, run.createdBy))

type Found = Awaited<ReturnType<typeof summaries>>[number]

const shape = (
  found: Found,
  rows: RunSummary['rows'] | undefined,
  titles: ReadonlyMap<string, string>,
): RunSummary => ({
  id: found.run.id,
  name: found.run.name,
  state: found.run.state,
  problem: found.run.problem,
  template: found.template,
  edition: found.edition,
  packet: found.run.packetEditions.map((id) => titles.get(id) ?? ''),
  sheet: found.sheet,
  sheetId: found.run.sheetId,
  fromRecords: found.sheetKind === 'records',
  createdAt: found.run.createdAt.toISOString(),
  createdBy: found.by,
  behind: found.run.version !== found.run.checkedVersion && found.run.state !== 'failed',
  rows: rows ?? EMPTY,
  generateStartedAt: found.run.generateStartedAt?.toISOString() ?? null,
  generateEndedAt: found.run.generateEndedAt?.toISOString() ?? null,
})

/** Titles of the documents of packets, by edition. */
async function packetTitles(app: App, found: readonly Found[]): Promise<ReadonlyMap<string, string>> {
  const ids = found.flatMap((row) => row.run.packetEditions)
  if (ids.length === 0) return new Map()
  const editions = await app.db
    .select({ id: edition.id, name: template.name })
    .from(edition)
    .innerJoin(template, eq(template.id, edition.templateId))
    .where(inArray(edition.id, ids))
  return new Map(editions.map(({ id, name }) => [id, name]))
}

export async function listRuns(app: App) {
  const found = await summaries(app).orderBy(desc(run.createdAt)).limit(500)
  const counts = await rowCounts(
    app,
    found.map((row) => row.run.id),
  )
  const titles = await packetTitles(app, found)
  return found.map((row) => shape(row, counts.get(row.run.id), titles))
}

export async function readRun(app: App, id: string) {
  const found = await summaries(app).where(eq(run.id, id))
  if (!found[0]) throw notFound('run')
  return shape(found[0], (await rowCounts(app, [id])).get(id), await packetTitles(app, found))
}

export async function runRows(app: App, id: string) {
  await readRun(app, id)
  const rows = await app.db
    .select({
      row: runRow,
      agreementId: agreement.id,
      number: agreement.number,
      agreementState: agreement.state,
    })
    .from(runRow)
    .leftJoin(claim, and(eq(claim.runId, runRow.runId), eq(claim.row, runRow.row)))
    .leftJoin(agreement, eq(agreement.id, claim.id))
    .where(eq(runRow.runId, id))
    .orderBy(asc(runRow.row))
  return rows.map(({ row, ...made }) => ({
    row: row.row,
    sourceRows: row.sourceRows,
    label: row.label,
    state: row.state,
    problems: [...row.problems],
    wording: row.wording,
    approvals: [...row.approvals],
    people: [...row.people],
    answers: row.answers,
    decision: row.decision,
    changed: row.changed !== null,
    language: row.language,
    copies: row.copies,
    extra: row.extra.map(({ name }) => name),
    pages: row.pages,
    overflow: [...row.overflow],
    ...made,
  }))
}

/** The run of this id with what it makes of its rows. */
export async function openRun(app: App, id: string, language: string | null = null) {
  const [found] = await app.db.select().from(run).where(eq(run.id, id))
  if (!found) throw notFound('run')
  return { found, bundle: await bundleOfRun(app, found, language) }
}

/** The titles of all passages on a condition, as wordings name them. */
const passageTitles = (bundle: Bundle): ReadonlyMap<string, string> =>
  new Map(
    bundle.parts.flatMap(({ conditional, content }, part) =>
      conditional.map((block) => [
        passageKey(bundle, part, block.attrs.id),
        bundle.parts.length > 1 ? `${content.title}: ${passageTitle(block)}` : passageTitle(block),
      ]),
    ),
  )

/** Rows that can be made or are, with their wording and what tells which of them are worth reading. */
export const wordedRows = (app: App, runId: string) =>
  app.db
    .select({ row: runRow.row, label: runRow.label, wording: runRow.wording, data: runRow.data })
    .from(runRow)
    .where(and(eq(runRow.runId, runId), inArray(runRow.state, ['ready', 'made', 'failed'])))
    .orderBy(asc(runRow.row))

/** The wordings of the rows that can be made; passages are named by their titles. */
export async function runWordings(app: App, id: string) {
  const { bundle } = await openRun(app, id)
  const titles = passageTitles(bundle)
  const rows = await wordedRows(app, id)
  const byRow = new Map(rows.map((row) => [row.row, row]))
  const reads = new Map(
    (
      await app.db
        .select({ wording: wordingRead.wording, at: wordingRead.readAt, by: person.name })
        .from(wordingRead)
        .innerJoin(person, eq(person.id, wordingRead.readBy))
        .where(eq(wordingRead.runId, id))
    ).map((read) => [read.wording, { by: read.by, at: read.at.toISOString() }]),
  )
  const named = (ids: readonly string[]) => ids.map((key) => titles.get(key) ?? key)
  const telling = (row: number) => ({ row, label: byRow.get(row)!.label })
  return groupWordings(rows.map(({ row, wording }) => ({ row, key: wording }))).map((wording) => {
    const { typical, longest } = tellingRows(wording.rows.map((row) => byRow.get(row)!))!
    return {
      key: wording.key,
      rows: [...wording.rows],
      kept: named(wording.kept),
      added: named(wording.added),
      left: named(wording.left),
      standard: wording.standard,
      typical: telling(typical),
      longest: telling(longest),
      read: reads.get(wording.key) ?? null,
    }
  })
}

const READERS: readonly string[] = ['runs', 'send', 'approve']

/** Says that a wording has been read, or takes that back. */
export async function tickWording(
  app: App,
  by: Person,
  id: string,
  { key, read }: { readonly key: string; readonly read: boolean },
): Promise<void> {
  if (!by.rights.some((right) => READERS.includes(right)))
    throw forbidden('Reading for others is for those who make, send or approve.')
  await readRun(app, id)
  const same = and(eq(wordingRead.runId, id), eq(wordingRead.wording, key))
  if (!read) await app.db.delete(wordingRead).where(same)
  else
    await app.db
      .insert(wordingRead)
      .values({ runId: id, wording: key, readBy: by.id, readAt: app.now() })
      .onConflictDoNothing()
}

/** The finished pages of one row as they would be made, without a number. */
export async function rowProof(app: App, id: string, row: number): Promise<Uint8Array> {
  const [found] = await app.db
    .select({ data: runRow.data, changed: runRow.changed, language: runRow.language })
    .from(runRow)
    .where(and(eq(runRow.runId, id), eq(runRow.row, row)))
  if (!found) throw notFound('row')
  const { bundle } = await openRun(app, id, found.language)
  const { documents } = mergeBundle(bundle, found.changed ?? found.data, null)
  return (await drawBundle(app, bundle, documents, { proof: true, at: new Date(0) })).pdf
}

/** A mapping that cannot be right keeps a run from being made, whatever single rows say. */
async function refuseFaultyMapping(app: App, id: string): Promise<void> {
  const { found, bundle } = await openRun(app, id)
  const faults = await faultsOf(
    app.db,
    found.sheetId,
    bundleFields(bundle),
    await columnsOf(app.db, found.sheetId),
    found.mapping,
  )
  if (faults.length)
    throw invalid(
      faults[0]!.message,
      faults.map(({ field, message }) => ({ pointer: `/mapping/${field}`, detail: message })),
    )
}

/** Begins or goes on making; rows that failed before are tried again. Asking twice changes nothing. */
export async function generate(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'runs')
  await refuseFaultyMapping(app, id)
  await transaction(app, async ({ db, enqueue, now }) => {
    const [found] = await db.select().from(run).where(eq(run.id, id)).for('update')
    if (found?.state === 'generating') return
    await transitionRun(db, id, 'generate', {
      generateStartedAt: sql`coalesce(${run.generateStartedAt}, ${now()})`,
      generateEndedAt: null,
      generatedBy: by.id,
      redoneFrom: null,
    })
    await db
      .update(runRow)
      .set({ state: 'ready', problems: [] })
      .where(and(eq(runRow.runId, id), eq(runRow.state, 'failed')))
    const [ready] = await db
      .select({ rows: count() })
      .from(runRow)
      .where(and(eq(runRow.runId, id), eq(runRow.state, 'ready')))
    if (!ready?.rows) throw conflict('No row is ready to be made.')
    await enqueue('generate-run', { runId: id })
  })
}

/** Milliseconds between two looks for rows in hand, and after which the answer waits for them no longer. */
const [LOOK, LONGEST] = [100, 20_000]

/** Waits until the rows are made that workers have in hand: after that nothing of the run moves. */
async function rowsInHand(app: App, id: string): Promise<void> {
  for (let waited = 0; waited < LONGEST; waited += LOOK) {
    const [inHand] = await app.db
      .select({ row: runRow.row })
      .from(runRow)
      .where(and(eq(runRow.runId, id), eq(runRow.state, 'ready'), gt(runRow.heldUntil, app.now())))
      .limit(1)
    if (!inHand) return
    await pause(LOOK)
  }
}

/** Stops after the rows in hand, and answers when they are made; `generate` goes on. */
export async function pauseRun(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'runs')
  await transitionRun(app.db, id, 'pause')
  await rowsInHand(app, id)
}

/** Ends the making for good, as far as nobody goes on with it: what is made stays. */
export async function cancelRun(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'runs')
  await transitionRun(app.db, id, 'cancel', { generateEndedAt: app.now() })
  await rowsInHand(app, id)
}
