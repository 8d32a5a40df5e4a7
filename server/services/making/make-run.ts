import { and, asc, eq, exists, inArray, isNotNull, notExists, or, sql } from 'drizzle-orm'
import type { AgreementRules } from '#core/rules/agreement-facts.ts'
import type { App, Work, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, claim, person, record, run, runRow, sheet } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { tryTransitionRun } from '#server/services/runs/transition-run.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { isFree, taking } from '#server/db/held.ts'
import { Turns } from '#server/ground/turns.ts'
import { perObject } from '#core/per-object.ts'
import { type ReservedNumber, reserveRowNumbers } from './reserve-numbers.ts'
import { bundleOfRun } from '#server/services/templates/editions.ts'
import { keepMade } from './keep.ts'
import { addRevision, drawAgreement, type Drawn } from './revisions.ts'

/**
 * Job: makes the agreements of a run until no row is left or the run is paused. Any number of lanes, in any number of
 * workers, may do this for one run at once: a row in hand is its worker's for a while, and free again as soon as that worker is
 * known to live no more; it counts as made by one short transaction, and so exactly once.
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
  const turns = turnsOf(app)
  const lane = async () => {
    while (await turns.during(() => makeNextRows(app, making)));
  }
  await Promise.all(Array.from({ length: turns.most }, lane))
  await endRun(app, runId)
}

/**
 * Turns for each thread that draws, which all runs of a worker share: while rows are written to the database, others are
 * drawn. Fewer than there are connections, of which others need some too.
 */
const turnsOf = perObject(
  ({ settings: { threads, connections } }: App) =>
    new Turns(Math.max(1, Math.min(threads * 2, Math.floor(connections / 2)))),
)

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
  await transaction(app, async ({ db, enqueue, now }) => {
    const ended = await tryTransitionRun(db, runId, 'finish', {
      // Rows that were made again leave the run as it was before.
      set: {
        state: sql`coalesce(${run.redoneFrom}, 'generated')`,
        redoneFrom: null,
        generateEndedAt: now(),
      },
      where: notExists(left),
    })
    // The source may have changed while the rows were made: what has is told.
    if (ended) await enqueue('check-run', { runId })
  })
}

/** Rows that are made by one transaction: what the database does for each costs a part of what it would alone. */
const ROWS_AT_ONCE = 4

/** Milliseconds that rows are a worker's own: far longer than they take, so that after it others may take them for left behind. */
const HELD = 120_000

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
  const rows = await takeRows(app, making, only)
  if (rows.length === 0) return { taken: false, broken: [], error: null }
  try {
    await makeRows(app, making, rows)
    return { taken: true, broken: [], error: null }
  } catch (error) {
    await app.db
      .update(runRow)
      .set({ heldUntil: null })
      .where(ours(app, making, rows))
    return { taken: true, broken: rows.map(({ row }) => row), error }
  }
}

/** Rows that this process has taken, and nobody else has taken since or made. */
const ours = (ground: Ground, { run: { id } }: Making, rows: readonly Row[]) =>
  and(
    eq(runRow.runId, id),
    inArray(
      runRow.row,
      rows.map(({ row }) => row),
    ),
    eq(runRow.state, 'ready'),
    eq(runRow.heldBy, ground.holder),
  )

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

/** Takes the next rows for a while, in one statement; those that others have in hand are passed by. */
function takeRows(app: App, { run: { id } }: Making, only: number | null): Promise<Row[]> {
  const { db } = app
  const now = app.now()
  const going = db
    .select({ id: run.id })
    .from(run)
    .where(and(eq(run.id, id), eq(run.state, 'generating')))
  const next = db
    .select({ row: runRow.row })
    .from(runRow)
    .where(
      and(
        eq(runRow.runId, id),
        eq(runRow.state, 'ready'),
        isFree(runRow, now),
        isMeant(db),
        only === null ? undefined : eq(runRow.row, only),
        exists(going),
      ),
    )
    .orderBy(asc(runRow.row))
    .limit(only === null ? ROWS_AT_ONCE : 1)
    .for('no key update', { skipLocked: true })
  return db
    .update(runRow)
    .set(taking(app, HELD))
    .where(and(eq(runRow.runId, id), inArray(runRow.row, next)))
    .returning()
}

async function markFailed(app: App, making: Making, row: number, error: unknown): Promise<void> {
  app.log.error({ err: error, run: making.run.id, row }, 'row could not be made')
  const message = 'The document could not be made. The cause is in the log; the row can be tried again.'
  await app.db
    .update(runRow)
    .set({ state: 'failed', problems: [{ field: '', column: null, message }] })
    .where(and(eq(runRow.runId, making.run.id), eq(runRow.row, row), eq(runRow.state, 'ready')))
}

/**
 * Claims and draws rows without any lock, and keeps what was drawn in one short transaction: of the rows that are still in
 * hand then, and unless what they are made of has changed meanwhile.
 */
async function makeRows(app: App, making: Making, rows: readonly Row[]): Promise<void> {
  const runId = making.run.id
  const claims = await reserveRowNumbers(
    app,
    making.seriesId,
    runId,
    rows.map(({ row }) => row),
  )
  const drawn = await Promise.all(
    rows.map(async (row) => {
      const claim = claims.get(row.row)!
      return { row, claim, drawn: await drawRow(app, making, row, claim.number) }
    }),
  )
  await transaction(app, async (work) => {
    const { db } = work
    const [now] = await db
      .select({ state: run.state, version: run.version })
      .from(run)
      .where(eq(run.id, runId))
      .for('share')
    const left = await db
      .select({ row: runRow.row })
      .from(runRow)
      .where(ours(work, making, rows))
      .orderBy(asc(runRow.row))
      .for('no key update')
    const inHand = new Set(now && goesOn(now, making) ? left.map(({ row }) => row) : [])
    await keepRows(
      work,
      making,
      drawn.filter(({ row }) => inHand.has(row.row)),
    )
    await db
      .update(runRow)
      .set({ heldUntil: null })
      .where(ours(work, making, rows))
  })
}

/** Whether what was drawn still counts: where the run was paused or cancelled, unless its rows were changed since. */
const goesOn = (now: Pick<Making['run'], 'state' | 'version'>, { run: before }: Making): boolean =>
  now.state === 'generating' || now.version === before.version

interface DrawnRow {
  readonly row: Row
  readonly claim: ReservedNumber
  readonly drawn: Drawn
}

async function keepRows(work: Work, making: Making, drawn: readonly DrawnRow[]): Promise<void> {
  if (drawn.length === 0) return
  const { db } = work
  // Only a row that had its claim before can have its agreement: it is made again then.
  const had = drawn.filter(({ claim }) => claim.had).map(({ claim }) => claim.id)
  const before = had.length
    ? await db.select().from(agreement).where(inArray(agreement.id, had)).for('update')
    : []
  const fresh: DrawnRow[] = []
  for (const made of drawn) {
    const there = before.find(({ id }) => id === made.claim.id)
    if (there)
      await addRevision(work, there, made.drawn, {
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
    .set({ state: 'made', problems: [], heldUntil: null })
    .where(
      and(
        eq(runRow.runId, making.run.id),
        inArray(
          runRow.row,
          drawn.map(({ row }) => row.row),
        ),
      ),
    )
}

async function drawRow(app: App, making: Making, row: Row, number: string): Promise<Drawn> {
  const bundle = await bundleOfRun(app, making.run, row.language)
  const { rules, author } = making
  const files = making.run.setup.fileName
  return drawAgreement(app, bundle, number, row, { rules, author, files, at: making.run.createdAt })
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
