import { randomUUID } from 'node:crypto'
import { setTimeout as pause } from 'node:timers/promises'
import { and, eq, inArray, isNull, lte, ne, notInArray, sql, type SQL } from 'drizzle-orm'
import { BudgetSpent } from '#core/expression/values/budget.ts'
import type { Person } from '#contract/person.ts'
import type { App, Work } from '#server/app/app.ts'
import { WorkEnded } from '#server/worker-pools/pool.ts'
import type { Db } from '#server/db/connect.ts'
import { isFree, taking } from '#server/db/held.ts'
import { checkedRow, claim, run, runRow, sheet } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { checkRows } from './check-rows.ts'
import { transitionRun, tryTransitionRun } from './transition-run.ts'

/**
 * What rows are read from has changed: the runs of the sheet check them again. A run that is being made goes on with the
 * rows as they were checked, and checks at its end.
 */
export async function checkAgain(work: Work, sheetId: string, by: Pick<Person, 'id'> | null): Promise<void> {
  const runs = await work.db
    .update(run)
    .set({ version: sql`${run.version} + 1`, ...(by ? { shapedBy: withShaper(by) } : {}) })
    .where(eq(run.sheetId, sheetId))
    .returning({ id: run.id })
  for (const { id } of runs) await askForCheck(work, id)
}

/** Those who have shaped a run, and one more. */
export const withShaper = (by: Pick<Person, 'id'>): SQL =>
  sql`array(select distinct unnest(${run.shapedBy} || ${by.id}::uuid))`

/** Puts a run whose version has been raised to check; one that is being made is checked at its end. */
export async function askForCheck({ db, enqueue }: Work, id: string): Promise<void> {
  if (await tryTransitionRun(db, id, 'read anew', { set: { problem: null } }))
    await enqueue('check-run', { runId: id })
}

/** Rows of a source up to which a change is checked while its sender waits; longer ones are left to a worker. */
const CHECKED_AT_ONCE = 1000
const RUNS_AT_ONCE = 3

/** Checks runs that a change has just put to check, where that is short; the job that was asked for then finds it done. */
export async function checkAtOnce(app: App, where: SQL): Promise<void> {
  const waiting = await app.db
    .select({ id: run.id })
    .from(run)
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .where(
      and(
        where,
        ne(run.state, 'generating'),
        ne(run.version, run.checkedVersion),
        lte(sheet.rowCount, CHECKED_AT_ONCE),
      ),
    )
    .limit(RUNS_AT_ONCE)
  for (const { id } of waiting) await checkRun(app, id)
}

/** Milliseconds that a run is one checker's own from lot to lot. */
const HELD = 60_000
/** Milliseconds between two looks at a run that another is checking. */
const LOOK = 150

/**
 * Job: reads and checks every row of a run. Doing it again gives the same rows; what was made stays as it was made. Rows
 * are read, checked in the threads and put apart a thousand at a time, so that a sheet of any length costs the same
 * memory, and take the place of the former ones all at once, by one short transaction.
 */
export async function checkRun(app: App, runId: string): Promise<void> {
  const found = await takeRun(app, runId)
  if (!found) return
  const id = randomUUID()
  try {
    const checked = await checkRows(app, id, found, () => goesOn(app, found)).catch((error: unknown) => {
      // A rule or formula without end: to try again would end the same way.
      if (error instanceof BudgetSpent || error instanceof WorkEnded)
        return { ok: false as const, problem: error.message }
      throw error
    })
    await transaction(app, async ({ db, enqueue }) => {
      const [now] = await db
        .select({ state: run.state, version: run.version })
        .from(run)
        .where(eq(run.id, runId))
        .for('update')
      // Another change came in between: the check that was asked for then gives its rows.
      if (!now || now.state === 'generating' || now.version !== found.version) return
      if (!checked.ok) {
        await transitionRun(db, runId, 'give up rows', {
          problem: checked.problem,
          checkedVersion: now.version,
        })
        return
      }
      await keepRows(db, runId, id)
      const { state } = await transitionRun(db, runId, 'take rows', {
        problem: null,
        checkedVersion: now.version,
      })
      if (state === 'checked') await enqueue('measure-run', { runId })
    })
  } finally {
    await app.db
      .update(run)
      .set({ heldUntil: null })
      .where(and(eq(run.id, runId), eq(run.heldBy, app.holder)))
    await app.db.delete(checkedRow).where(eq(checkedRow.checkId, id))
  }
}

/**
 * Takes a run to check it, one at a time: whoever comes second waits, and finds what the first has left to do, mostly
 * nothing. Null: there is nothing to check.
 */
async function takeRun(app: App, runId: string): Promise<typeof run.$inferSelect | null> {
  for (;;) {
    const [found] = await app.db.select().from(run).where(eq(run.id, runId))
    if (!found || found.state === 'generating') return null
    if (found.checkedVersion === found.version && found.state !== 'checking') return null
    const [taken] = await app.db
      .update(run)
      .set(taking(app, HELD))
      .where(and(eq(run.id, runId), isFree(run, app.now())))
      .returning()
    if (taken) {
      // What a crash left behind of another check.
      await app.db.delete(checkedRow).where(eq(checkedRow.runId, runId))
      return taken
    }
    await pause(LOOK)
  }
}

/** Whether a check is still of the run as it is now; keeps the run in hand. */
async function goesOn(app: App, { id, version }: typeof run.$inferSelect): Promise<boolean> {
  const kept = await app.db
    .update(run)
    .set(taking(app, HELD))
    .where(and(eq(run.id, id), eq(run.version, version), eq(run.heldBy, app.holder)))
    .returning({ id: run.id })
  return kept.length > 0
}

/** Puts the rows that have been checked in the place of those there are. */
async function keepRows(db: Db, runId: string, checkId: string): Promise<void> {
  const numbered = db.select({ row: claim.row }).from(claim).where(eq(claim.runId, runId))
  const here = db.select({ row: checkedRow.row }).from(checkedRow).where(eq(checkedRow.checkId, checkId))
  const gone = and(eq(runRow.runId, runId), notInArray(runRow.row, here))
  await db.delete(runRow).where(and(gone, notInArray(runRow.row, numbered)))
  // A row that has its number keeps it, so that no number is lost.
  await db
    .update(runRow)
    .set({ state: 'skipped', problems: [{ field: '', column: null, message: GONE, kind: 'left out' }] })
    .where(and(gone, ne(runRow.state, 'made')))
  await db.execute(sql`
    insert into ${runRow} select (jsonb_populate_record(null::${runRow}, said)).* from ${checkedRow} where check_id = ${checkId}
    on conflict (run_id, row) do update set ${overwritten}`)
}

const GONE = 'This row is not in the source any more.'

/** What a check gives anew; answers and decisions are people's, and stay. */
const overwritten = sql.raw(
  [
    'source_rows',
    'label',
    'state',
    'data',
    'problems',
    'wording',
    'approvals',
    'people',
    'changed',
    'language',
    'copies',
    'extra',
    'pages',
    'overflow',
    'record_id',
    // Whoever has it in hand has it as it was before.
    'held_by',
    'held_until',
  ]
    .map((column) => `${column} = excluded.${column}`)
    .join(', '),
)

/** Rows of a run whose pages have not been drawn for a look yet. */
export const unmeasured = (app: App, runId: string) =>
  app.db
    .select()
    .from(runRow)
    .where(
      and(eq(runRow.runId, runId), isNull(runRow.pages), inArray(runRow.state, ['ready', 'needs a hand'])),
    )
    .orderBy(runRow.row)
