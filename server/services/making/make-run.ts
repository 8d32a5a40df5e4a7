import { and, asc, eq, exists, inArray, isNotNull, notExists, or, sql } from 'drizzle-orm'
import type { AgreementRules } from '#core/rules/agreement-facts.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, claim, person, record, run, runRow, sheet } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Work } from '#server/app/transaction.ts'
import { tryMoveRun } from '#server/services/runs/move-run.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { claimRows } from './claims.ts'
import { bundleOfRun } from '#server/services/templates/editions.ts'
import { keepMade } from './keep.ts'
import { addRevision, drawAgreement } from './revisions.ts'
import type { Drawn } from './revisions.ts'

/**
 * Job: makes the agreements of a run until no row is left or the run is paused. Any number of lanes, in any number of
 * workers, may do this for one run at once: each row is claimed by a row lock that lives as long as its transaction, so
 * a worker that dies gives its rows back at once, and a row is made exactly once.
 */
export async function generateRun(app: App, runId: string): Promise<void> {
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found || found.state !== 'generating') return
  const { editions } = await bundleOfRun(app, found)
  const [source] = await app.db
    .select({ rows: sheet.rowCount })
    .from(sheet)
    .where(eq(sheet.id, found.sheetId))
  const rules = await rulesFor(
    app.db,
    editions.map(({ templateId }) => templateId),
    { author: found.createdBy, from: 'sheet', rows: source?.rows ?? 0 },
  )
  const [author] = await app.db
    .select({ name: person.name })
    .from(person)
    .where(eq(person.id, found.generatedBy ?? found.createdBy))
  const making: Making = { run: found, rules, seriesId: editions[0]!.seriesId, author: author?.name ?? '' }
  const lane = async () => {
    while (await makeNextRows(app, making));
  }
  await Promise.all(Array.from({ length: app.settings.threads * LANES }, lane))
  await endRun(app, runId)
}

/** Lanes for each thread that draws: while rows are written to the database, others are drawn. */
const LANES = 2

type Row = typeof runRow.$inferSelect

interface Making {
  readonly run: typeof run.$inferSelect
  readonly rules: AgreementRules
  readonly seriesId: string
  readonly author: string
}

async function endRun(app: App, runId: string): Promise<void> {
  const left = app.db
    .select({ row: runRow.row })
    .from(runRow)
    .where(and(eq(runRow.runId, runId), eq(runRow.state, 'ready'), isMeant(app.db)))
  await transaction(app, async ({ db, enqueue }) => {
    const ended = await tryMoveRun(db, runId, 'finish', {
      // Rows that were made again leave the run as it was before.
      set: {
        state: sql`coalesce(${run.redoneFrom}, 'generated')`,
        redoneFrom: null,
        generateEndedAt: app.now(),
      },
      where: notExists(left),
    })
    // The source may have changed while the rows were made: what has is told.
    if (ended) await enqueue('check-run', { runId })
  })
}

/** Rows that are made by one transaction: what the database does for each costs a part of what it would alone. */
const ROWS_AT_ONCE = 4

/** Makes the next few rows; false when there is nothing more to take. */
async function makeNextRows(app: App, making: Making): Promise<boolean> {
  const made = await makeTaken(app, making, null)
  // One of them cannot be made; which, each tells by itself.
  for (const row of made.broken) {
    const alone = await makeTaken(app, making, row)
    if (alone.broken.length) await markFailed(app, making, row, alone.error)
  }
  return made.taken
}

/**
 * Takes rows and makes them, the one of this number or the next few. `broken`: rows that were taken and not made, for
 * whatever reason; nothing of them is left behind.
 */
async function makeTaken(
  app: App,
  making: Making,
  only: number | null,
): Promise<{ readonly taken: boolean; readonly broken: readonly number[]; readonly error: unknown }> {
  let taken: readonly number[] = []
  try {
    await transaction(app, async (work) => {
      const rows = await takeRows(work.db, making, only)
      taken = rows.map(({ row }) => row)
      if (rows.length) await makeRows(app, work, making, rows)
    })
    return { taken: taken.length > 0, broken: [], error: null }
  } catch (error) {
    if (taken.length === 0) throw error
    return { taken: true, broken: taken, error }
  }
}

/** Whether a row is to be made: where only some are made again, those that have an agreement. */
const isMeant = (db: Db) =>
  or(
    notExists(
      db
        .select({ id: run.id })
        .from(run)
        .where(and(eq(run.id, runRow.runId), isNotNull(run.redoneFrom))),
    ),
    exists(
      db
        .select({ id: agreement.id })
        .from(agreement)
        .innerJoin(claim, eq(claim.id, agreement.id))
        .where(and(eq(claim.runId, runRow.runId), eq(claim.row, runRow.row))),
    ),
  )

/** The rows stay locked as long as the transaction lives; others pass them by. */
function takeRows(db: Db, { run: { id } }: Making, only: number | null): Promise<Row[]> {
  const going = db
    .select({ id: run.id })
    .from(run)
    .where(and(eq(run.id, id), eq(run.state, 'generating')))
  return db
    .select()
    .from(runRow)
    .where(
      and(
        eq(runRow.runId, id),
        eq(runRow.state, 'ready'),
        isMeant(db),
        only === null ? undefined : eq(runRow.row, only),
        exists(going),
      ),
    )
    .orderBy(asc(runRow.row))
    .limit(only === null ? ROWS_AT_ONCE : 1)
    .for('no key update', { skipLocked: true })
    .execute()
}

async function markFailed(app: App, making: Making, row: number, error: unknown): Promise<void> {
  app.log.error({ err: error, run: making.run.id, row }, 'row could not be made')
  const message = 'The document could not be made. The cause is in the log; the row can be tried again.'
  await app.db
    .update(runRow)
    .set({ state: 'failed', problems: [{ field: '', column: null, message }] })
    .where(and(eq(runRow.runId, making.run.id), eq(runRow.row, row), eq(runRow.state, 'ready')))
}

async function makeRows(app: App, work: Work, making: Making, rows: readonly Row[]): Promise<void> {
  const { db } = work
  const runId = making.run.id
  const numbers = rows.map(({ row }) => row)
  const claims = await claimRows(app, making.seriesId, runId, numbers)
  const drawn = await Promise.all(
    rows.map(async (row) => {
      const claim = claims.get(row.row)!
      return { row, claim, drawn: await drawRow(app, db, making, row, claim.number) }
    }),
  )
  // Only a row that had its claim before can have its agreement: it is made again then.
  const had = drawn.filter(({ claim }) => claim.had).map(({ claim }) => claim.id)
  const before = had.length
    ? await db.select().from(agreement).where(inArray(agreement.id, had)).for('update')
    : []
  const fresh: typeof drawn = []
  for (const made of drawn) {
    const there = before.find(({ id }) => id === made.claim.id)
    if (there)
      await addRevision(app, work, there, made.drawn, {
        act: (revised) => ({
          act: 'made again',
          detail: { ...revised, run: making.run.name, row: made.row.row },
        }),
        changedClauses: null,
        shapedBy: making.run.shapedBy,
      })
    else fresh.push(made)
  }
  if (fresh.length) {
    const shapers = await shapersOf(
      db,
      making.run,
      fresh.map(({ row }) => row),
    )
    await keepMade(
      app,
      work,
      making.run,
      fresh.map(({ row, ...made }) => ({
        ...made,
        told: { run: making.run.name, row: row.row },
        recordId: row.recordId,
        shapedBy: shapers(row),
      })),
    )
  }
  await db
    .update(runRow)
    .set({ state: 'made', problems: [] })
    .where(and(eq(runRow.runId, runId), inArray(runRow.row, numbers)))
}

async function drawRow(app: App, db: Db, making: Making, row: Row, number: string): Promise<Drawn> {
  const bundle = await bundleOfRun(app, making.run, row.language)
  const { rules, author } = making
  const files = making.run.setup.fileName
  return drawAgreement(app, db, bundle, number, row, { rules, author, files, at: making.run.createdAt })
}

/** Whoever shaped the run, and whoever last changed a row's deal: both have a part in what its agreement says. */
async function shapersOf(
  db: Db,
  { shapedBy }: Pick<Making['run'], 'shapedBy'>,
  rows: readonly Row[],
): Promise<(row: Row) => readonly string[]> {
  const ids = rows.flatMap(({ recordId }) => recordId ?? [])
  const changed = ids.length
    ? await db.select({ id: record.id, by: record.changedBy }).from(record).where(inArray(record.id, ids))
    : []
  const changers = new Map(changed.map(({ id, by }) => [id, by]))
  return ({ recordId }) => {
    const by = recordId ? changers.get(recordId) : undefined
    return by ? [...new Set([...shapedBy, by])] : shapedBy
  }
}
