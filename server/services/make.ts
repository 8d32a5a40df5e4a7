import { randomUUID } from 'node:crypto'
import { and, asc, eq, exists, notExists, sql } from 'drizzle-orm'
import { mergeBundle } from '#core/packet/bundle.ts'
import type { Rule } from '#core/routing/route.ts'
import type { App } from '#server/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, agreementNumber, person, run, runRow, series } from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import { drawBundle } from './drawing.ts'
import { bundleOfRun } from './editions.ts'
import { addRevision, approvalOf, contentOf, keepRevision, keepSteps } from './revisions.ts'
import type { Drawn } from './revisions.ts'
import { activeRules } from './rules.ts'
import { record } from './trail.ts'

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
    .where(eq(person.id, found.createdBy))
  const making: Making = { run: found, rules, seriesId: editions[0]!.seriesId, author: author?.name ?? '' }
  const lane = async () => {
    while (await makeNextRow(app, making));
  }
  await Promise.all(Array.from({ length: app.settings.threads * LANES }, lane))
  await endRun(app, runId)
}

/** Lanes for each thread that draws: while one row is written to the database, another is drawn. */
const LANES = 3

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
    .where(and(eq(runRow.runId, runId), eq(runRow.state, 'ready')))
  await transaction(app, async ({ db, enqueue }) => {
    const [ended] = await db
      .update(run)
      .set({ state: 'generated', generateEndedAt: app.now() })
      .where(and(eq(run.id, runId), eq(run.state, 'generating'), notExists(left)))
      .returning({ id: run.id })
    // The source may have changed while the rows were made: what has is told.
    if (ended) await enqueue('check-run', { runId })
  })
}

/** False when there is nothing more to claim. */
async function makeNextRow(app: App, making: Making): Promise<boolean> {
  let claimed: number | null = null
  try {
    return await transaction(app, async ({ db }) => {
      const going = db
        .select({ id: run.id })
        .from(run)
        .where(and(eq(run.id, making.run.id), eq(run.state, 'generating')))
      const [row] = await db
        .select()
        .from(runRow)
        .where(and(eq(runRow.runId, making.run.id), eq(runRow.state, 'ready'), exists(going)))
        .orderBy(asc(runRow.row))
        .limit(1)
        .for('no key update', { skipLocked: true })
      if (!row) return false
      claimed = row.row
      await makeRow(app, db, making, row)
      return true
    })
  } catch (error) {
    if (claimed === null) throw error
    app.log.error({ err: error, run: making.run.id, row: claimed }, 'row could not be made')
    const message = 'The document could not be made. The cause is in the log; the row can be tried again.'
    await app.db
      .update(runRow)
      .set({ state: 'failed', problems: [{ field: '', column: null, message }] })
      .where(and(eq(runRow.runId, making.run.id), eq(runRow.row, claimed), eq(runRow.state, 'ready')))
    return true
  }
}

async function makeRow(app: App, db: Db, making: Making, row: typeof runRow.$inferSelect): Promise<void> {
  const bundle = await bundleOfRun(app, making.run, row.language)
  const { number, had } = await allotNumber(app, making.seriesId, row.runId, row.row)
  // Only a row that had its number before can have its agreement: it is made again then.
  const [made] = had
    ? await db
        .select()
        .from(agreement)
        .where(and(eq(agreement.runId, row.runId), eq(agreement.row, row.row)))
        .for('update')
    : []
  const { data } = row
  const merged = mergeBundle(bundle, data, number)
  const composed = await drawBundle(app, bundle, merged.documents, {
    proof: false,
    at: making.run.createdAt,
  })
  const drawn: Drawn = {
    bundle,
    merged,
    composed,
    rules: making.rules,
    author: making.author,
    content: contentOf(bundle, merged, number, making.run.setup.fileName, row),
  }
  if (made)
    await addRevision(app, db, made, drawn, {
      act: 'made again',
      detail: { run: making.run.name, row: row.row },
      changedByHand: false,
    })
  else await addAgreement(app, db, making, row, number, drawn)
  await db
    .update(runRow)
    .set({ state: 'made', problems: [] })
    .where(and(eq(runRow.runId, row.runId), eq(runRow.row, row.row)))
}

async function addAgreement(
  app: App,
  db: Db,
  making: Making,
  row: typeof runRow.$inferSelect,
  number: string,
  drawn: Drawn,
): Promise<void> {
  const now = app.now()
  const id = randomUUID()
  const approval = approvalOf(drawn, false, now)
  await db.insert(agreement).values({
    id,
    number,
    editionId: making.run.editionId,
    runId: row.runId,
    row: row.row,
    state: approval.state,
    createdBy: making.run.createdBy,
    createdAt: now,
    changedAt: now,
    recordId: row.recordId,
    ...drawn.content,
  })
  const fileSha256 = await keepRevision(app, db, id, 1, drawn)
  await keepSteps(db, id, 1, approval)
  await record(db, id, [
    {
      at: now.toISOString(),
      actor: making.author,
      act: 'made',
      detail: { run: making.run.name, row: row.row, number, document: fileSha256 },
    },
    ...approval.acts,
  ])
}

/**
 * The row's number, allotted for good on first asking and committed at once, by one statement of its own: a crash later
 * in the making leaves no gap, because the row finds its number again. `had`: it was allotted before.
 */
async function allotNumber(
  app: App,
  seriesId: string,
  runId: string,
  row: number,
): Promise<{ readonly number: string; readonly had: boolean }> {
  const { rows } = await app.db.execute<{ pattern: string; number: number; had: boolean }>(sql`
    with had as (
      select number from ${agreementNumber} where run_id = ${runId} and row = ${row}
    ), counted as (
      update ${series} set last_number = last_number + 1
      where id = ${seriesId} and not exists (select from had)
      returning last_number
    ), allotted as (
      insert into ${agreementNumber} (series_id, number, run_id, row)
      select ${seriesId}, last_number, ${runId}, ${row} from counted
      returning number
    )
    select pattern, coalesce((select number from had), (select number from allotted)) as number,
      exists (select from had) as had
    from ${series} where id = ${seriesId}`)
  const [allotted] = rows
  if (!allotted) throw new Error(`There is no series ${seriesId}.`)
  return {
    number: allotted.pattern.replace('{n}', String(allotted.number).padStart(4, '0')),
    had: allotted.had,
  }
}
