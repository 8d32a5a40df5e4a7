import { randomUUID } from 'node:crypto'
import { and, asc, eq, exists, inArray, isNotNull, notExists, or, sql } from 'drizzle-orm'
import { numberText } from '#core/agreement/number.ts'
import { mergeBundle } from '#core/packet/bundle.ts'
import type { Rule } from '#core/routing/route.ts'
import type { App } from '#server/app.ts'
import type { Db } from '#server/db/connect.ts'
import {
  agreement,
  agreementNumber,
  person,
  record as recordTable,
  run,
  runRow,
  series,
} from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import type { Work } from '#server/db/transaction.ts'
import { drawBundle } from './drawing.ts'
import { bundleOfRun } from './editions.ts'
import { addRevision, approvalOf, contentOf, keepRevisions, keepSteps, proofOf } from './revisions.ts'
import type { Drawn } from './revisions.ts'
import { activeRules } from './rules.ts'
import { acted, recordFirst } from './trail.ts'
import { tryMoveRun } from './move-run.ts'

/**
 * Job: makes the agreements of a run until no row is left or the run is paused. Any number of lanes, in any number of
 * workers, may do this for one run at once: each row is claimed by a row lock that lives as long as its transaction, so
 * a worker that dies gives its rows back at once, and a row is made exactly once.
 */
export async function generateRun(app: App, runId: string): Promise<void> {
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found || found.state !== 'generating') return
  const { editions } = await bundleOfRun(app, found)
  const rules = await activeRules(app.db)
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
  readonly rules: readonly Rule[]
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

/** Makes the next few rows; false when there is nothing more to claim. */
async function makeNextRows(app: App, making: Making): Promise<boolean> {
  const made = await makeClaimed(app, making, null)
  // One of them cannot be made; which, each tells by itself.
  for (const row of made.broken) {
    const alone = await makeClaimed(app, making, row)
    if (alone.broken.length) await markFailed(app, making, row, alone.error)
  }
  return made.claimed
}

/**
 * Claims rows and makes them, the one of this number or the next few. `broken`: rows that were claimed and not made, for
 * whatever reason; nothing of them is left behind.
 */
async function makeClaimed(
  app: App,
  making: Making,
  only: number | null,
): Promise<{ readonly claimed: boolean; readonly broken: readonly number[]; readonly error: unknown }> {
  let claimed: readonly number[] = []
  try {
    await transaction(app, async (work) => {
      const rows = await claim(work.db, making, only)
      claimed = rows.map(({ row }) => row)
      if (rows.length) await makeRows(app, work, making, rows)
    })
    return { claimed: claimed.length > 0, broken: [], error: null }
  } catch (error) {
    if (claimed.length === 0) throw error
    return { claimed: true, broken: claimed, error }
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
        .where(and(eq(agreement.runId, runRow.runId), eq(agreement.row, runRow.row))),
    ),
  )

/** The rows stay locked as long as the transaction lives; others pass them by. */
function claim(db: Db, { run: { id } }: Making, only: number | null): Promise<Row[]> {
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

interface MadeRow {
  readonly row: Row
  readonly number: string
  readonly drawn: Drawn
}

async function makeRows(app: App, work: Work, making: Making, rows: readonly Row[]): Promise<void> {
  const { db } = work
  const runId = making.run.id
  const numbers = rows.map(({ row }) => row)
  const allotted = await allotNumbers(app, making.seriesId, runId, numbers)
  const drawn = await Promise.all(rows.map((row) => drawRow(app, making, row, allotted.get(row.row)!.number)))
  // Only a row that had its number before can have its agreement: it is made again then.
  const had = numbers.filter((row) => allotted.get(row)!.had)
  const before = had.length
    ? await db
        .select()
        .from(agreement)
        .where(and(eq(agreement.runId, runId), inArray(agreement.row, had)))
        .for('update')
    : []
  const fresh: MadeRow[] = []
  for (const made of drawn) {
    const there = before.find(({ row }) => row === made.row.row)
    if (there)
      await addRevision(app, work, there, made.drawn, {
        act: (revised) => ({
          act: 'made again',
          detail: { ...revised, run: making.run.name, row: made.row.row },
        }),
        changedByHand: false,
        shapedBy: making.run.shapedBy,
      })
    else fresh.push(made)
  }
  if (fresh.length) await addAgreements(app, db, making, fresh)
  await db
    .update(runRow)
    .set({ state: 'made', problems: [] })
    .where(and(eq(runRow.runId, runId), inArray(runRow.row, numbers)))
}

async function drawRow(app: App, making: Making, row: Row, number: string): Promise<MadeRow> {
  const bundle = await bundleOfRun(app, making.run, row.language)
  const merged = mergeBundle(bundle, row.data, number)
  const composed = await drawBundle(app, bundle, merged.documents, {
    proof: false,
    at: making.run.createdAt,
  })
  const content = contentOf(bundle, merged, number, making.run.setup.fileName, row)
  const { rules, author } = making
  return { row, number, drawn: { bundle, merged, composed, rules, author, content } }
}

async function addAgreements(app: App, db: Db, making: Making, made: readonly MadeRow[]): Promise<void> {
  const now = app.now()
  const recordIds = made.flatMap(({ row }) => row.recordId ?? [])
  // Whoever last changed a deal has a part in what its agreement says.
  const changers = new Map(
    recordIds.length
      ? (
          await db
            .select({ id: recordTable.id, by: recordTable.changedBy })
            .from(recordTable)
            .where(inArray(recordTable.id, recordIds))
        ).map(({ id, by }) => [id, by])
      : [],
  )
  const shapers = (recordId: string | null) => {
    const by = recordId ? changers.get(recordId) : undefined
    return by ? [...new Set([...making.run.shapedBy, by])] : making.run.shapedBy
  }
  const added = made.map((each) => ({
    ...each,
    agreementId: randomUUID(),
    approval: approvalOf(each.drawn, false, now),
  }))
  await db.insert(agreement).values(
    added.map(({ row, number, drawn, agreementId, approval }) => ({
      id: agreementId,
      number,
      editionId: making.run.editionId,
      runId: row.runId,
      row: row.row,
      state: approval.state,
      createdBy: making.run.createdBy,
      shapedBy: [...shapers(row.recordId)],
      createdAt: now,
      changedAt: now,
      recordId: row.recordId,
      ...drawn.content,
    })),
  )
  const first = added.map((each) => ({ ...each, number: 1 }))
  const documents = await keepRevisions(app, db, first)
  await keepSteps(db, first)
  await recordFirst(
    db,
    added.map(({ row, number, drawn, agreementId, approval }, i) => ({
      agreementId,
      acts: [
        acted(making.author, now, {
          act: 'made',
          detail: { run: making.run.name, row: row.row, number, document: documents[i]!, ...proofOf(drawn) },
        }),
        ...approval.acts.map((act) => acted(null, now, act)),
      ],
    })),
  )
}

/** First key of the locks on series that are counted up; the second is made of the series' id. */
const NUMBER_LOCK = 2

/**
 * The rows' numbers, allotted for good on first asking and committed at once, by a transaction of their own: a crash later
 * in the making leaves no gap, because a row finds its number again. Rows before them that others are making get theirs
 * first, so that numbers follow the rows. `had`: it was allotted before.
 */
const allotNumbers = (
  app: App,
  seriesId: string,
  runId: string,
  asked: readonly number[],
): Promise<ReadonlyMap<number, { readonly number: string; readonly had: boolean }>> =>
  transaction(app, async ({ db }) => {
    // Whoever waited sees what the others allotted: each statement looks anew.
    await db.execute(sql`select pg_advisory_xact_lock(${NUMBER_LOCK}, hashtext(${seriesId}))`)
    const these = sql`any(${sql.param([...asked])}::int[])`
    const { rows } = await db.execute<{ row: number; pattern: string; number: number; had: boolean }>(sql`
      with had as (
        select row, number from ${agreementNumber} where run_id = ${runId} and row = ${these}
      ), fresh as (
        select row, row_number() over (order by row) as place
        from ${runRow} as ready
        where run_id = ${runId} and state = 'ready' and row <= ${Math.max(...asked)}
          and not exists (
            select from ${agreementNumber} as other where other.run_id = ${runId} and other.row = ready.row
          )
      ), counted as (
        update ${series} set last_number = last_number + (select count(*) from fresh)
        where id = ${seriesId} and exists (select from fresh)
        returning last_number
      ), allotted as (
        insert into ${agreementNumber} (series_id, number, run_id, row)
        select ${seriesId}, last_number - (select count(*) from fresh) + place, ${runId}, row from fresh, counted
        returning row, number
      )
      select row, number, had, pattern
      from (select row, number, true as had from had union all select row, number, false from allotted) as numbered,
        ${series}
      where id = ${seriesId} and row = ${these}`)
    if (rows.length !== asked.length) throw new Error(`There is no series ${seriesId}.`)
    return new Map(
      rows.map(({ row, pattern, number, had }) => [row, { number: numberText(pattern, number), had }]),
    )
  })
