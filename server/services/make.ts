import { randomUUID } from 'node:crypto'
import { and, asc, eq, exists, notExists, sql } from 'drizzle-orm'
import { move } from '#core/agreement/states.ts'
import { fill, merge } from '#core/merge/merge.ts'
import type { ReadyTemplate } from '#core/merge/prepare.ts'
import { fileName } from '#core/text/pattern.ts'
import type { Look } from '#core/document/look.ts'
import type { Rule } from '#core/routing/route.ts'
import type { App } from '#server/app.ts'
import type { Db } from '#server/db/connect.ts'
import {
  agreement,
  agreementNumber,
  party,
  person,
  revision,
  run,
  runRow,
  series,
  step,
} from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import { activeRules, routeRecord } from './rules.ts'
import { drawDocument, lookOf } from './drawing.ts'
import { readyEdition } from './runs.ts'
import { record } from './trail.ts'

/**
 * Job: makes the agreements of a run until no row is left or the run is paused. Any number of lanes, in any number of
 * workers, may do this for one run at once: each row is claimed by a row lock that lives as long as its transaction, so
 * a worker that dies gives its rows back at once, and a row is made exactly once.
 */
export async function generateRun(app: App, runId: string): Promise<void> {
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found || found.state !== 'generating') return
  const { ready, template } = await readyEdition(app, found.editionId)
  const rules = await activeRules(app.db)
  const [author] = await app.db
    .select({ name: person.name })
    .from(person)
    .where(eq(person.id, found.createdBy))
  const making: Making = {
    run: found,
    ready,
    rules,
    seriesId: template.seriesId,
    author: author?.name ?? '',
    look: await lookOf(app, ready.content.look),
  }
  const lane = async () => {
    while (await makeNextRow(app, making));
  }
  await Promise.all(Array.from({ length: app.settings.threads }, lane))
  await endRun(app, runId)
}

interface Making {
  readonly run: typeof run.$inferSelect
  readonly ready: ReadyTemplate
  readonly rules: readonly Rule[]
  readonly seriesId: string
  readonly author: string
  readonly look: Look
}

async function endRun(app: App, runId: string): Promise<void> {
  const left = app.db
    .select({ row: runRow.row })
    .from(runRow)
    .where(and(eq(runRow.runId, runId), eq(runRow.state, 'ready')))
  await app.db
    .update(run)
    .set({ state: 'generated', generateEndedAt: app.now() })
    .where(and(eq(run.id, runId), eq(run.state, 'generating'), notExists(left)))
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
  const { ready } = making
  const number = await allotNumber(app, making.seriesId, row.runId, row.row)
  const { data } = row
  const merged = merge(ready, data, number)
  const composed = await drawDocument(app, merged.document, making.look, {
    proof: false,
    at: making.run.createdAt,
  })
  const now = app.now()
  const fileSha256 = await app.files.put(db, composed.pdf, 'application/pdf', now)
  const routed = routeRecord(making.rules, ready, data)
  if (!routed.ok) throw new Error(routed.problem)
  const state = move('draft', 'route', { openSteps: routed.steps.length, unsigned: merged.people.length })
  if (!state.ok) throw new Error(state.problem)
  const id = randomUUID()
  const say = (pattern: string) => fill(ready, data, pattern, number)
  const { sending } = ready.content
  await db.insert(agreement).values({
    id,
    number,
    name: say(sending.agreementName),
    fileName: fileName(say(sending.fileName)),
    editionId: making.run.editionId,
    runId: row.runId,
    row: row.row,
    state: state.state,
    data,
    createdBy: making.run.createdBy,
    createdAt: now,
    changedAt: now,
    subject: say(sending.subject),
    message: say(sending.message),
  })
  await db
    .insert(revision)
    .values({ agreementId: id, number: 1, fileSha256, pages: composed.pages, blanks: composed.blanks })
  await db.insert(party).values(
    merged.people.map(({ role, label, order, name, email, title }) => ({
      id: randomUUID(),
      agreementId: id,
      revision: 1,
      role,
      label,
      order,
      name,
      email,
      title,
    })),
  )
  if (routed.steps.length)
    await db.insert(step).values(
      routed.steps.map(({ approver, reason }) => ({
        id: randomUUID(),
        agreementId: id,
        revision: 1,
        round: 1,
        approver,
        reason,
        state: 'waiting' as const,
        since: now,
      })),
    )
  await db
    .update(runRow)
    .set({ state: 'made' })
    .where(and(eq(runRow.runId, row.runId), eq(runRow.row, row.row)))
  const at = now.toISOString()
  await record(db, id, [
    {
      at,
      actor: making.author,
      act: 'made',
      detail: { run: making.run.name, row: row.row, number, document: fileSha256 },
    },
    ...(routed.steps.length
      ? routed.steps.map(({ approver, reason }) => ({
          at,
          actor: 'Brevan',
          act: 'put to approval',
          detail: { approver, reason },
        }))
      : [{ at, actor: 'Brevan', act: 'cleared', detail: { reason: 'No rule asks for approval' } }]),
  ])
}

/**
 * The row's number, allotted for good on first asking and committed at once: a crash later in the making leaves no gap,
 * because the row finds its number again.
 */
async function allotNumber(app: App, seriesId: string, runId: string, row: number): Promise<string> {
  return transaction(app, async ({ db }) => {
    const [counted] = await db.select().from(series).where(eq(series.id, seriesId)).for('update')
    if (!counted) throw new Error(`There is no series ${seriesId}.`)
    const [had] = await db
      .select({ number: agreementNumber.number })
      .from(agreementNumber)
      .where(and(eq(agreementNumber.runId, runId), eq(agreementNumber.row, row)))
    const number = had?.number ?? counted.lastNumber + 1
    if (!had) {
      await db
        .update(series)
        .set({ lastNumber: sql`${series.lastNumber} + 1` })
        .where(eq(series.id, seriesId))
      await db.insert(agreementNumber).values({ seriesId, number, runId, row })
    }
    return counted.pattern.replace('{n}', String(number).padStart(4, '0'))
  })
}
