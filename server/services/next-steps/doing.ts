import { and, asc, eq, lte } from 'drizzle-orm'
import { describeStep, type StepKind } from '#core/next-steps/steps.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { BudgetSpent, withBudget } from '#core/expression/values/budget.ts'
import { completeRecord } from '#core/outline/record.ts'
import { cut } from '#core/text/cut.ts'
import { pauseAfter } from '#core/trail/telling.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work, Ground } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { FOLLOWING } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { aftermathStep, agreement, file, person } from '#server/db/schema.ts'
import { Refusal } from '#server/ground/problem.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { documentOf } from '#server/services/agreements/parties.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { takeFirst } from '#server/db/held.ts'
import { one } from '#server/db/one.ts'
import { makeClaimed } from '#server/services/making/make-claimed.ts'
import { toPerson } from '#server/services/installation/people.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { ACTS } from './acts.ts'
import type { Came, Doing, Following } from './acts/following.ts'

type Row = typeof aftermathStep.$inferSelect

/** Milliseconds that a worker has a step to itself. */
const HELD = 120_000
/** Tries before a step counts as failed: with growing pauses about half a day. */
const TRIES = 12
/** Steps that one condition may take. */
const STEPS = 100_000

/** Job: does what is due, the longest due first, until nothing is left that nobody else does. */
export async function doAftermath(app: App): Promise<void> {
  const take = () =>
    takeFirst(
      app,
      aftermathStep,
      and(eq(aftermathStep.state, 'waiting'), lte(aftermathStep.dueAt, app.now())),
      [asc(aftermathStep.dueAt), asc(aftermathStep.place)],
      HELD,
    )
  for (let next = await take(); next; next = await take()) await doOne(app, next)
}

async function doOne(app: App, row: Row): Promise<void> {
  try {
    const following = await followingOf(app, row)
    // Of a step that needs more it is asked again, by name.
    await requireMay(app, following.by, 'send', 'runs')
    if (!holds(following)) {
      await transaction(app, (work) => end(work, row, 'skip', 'its condition does not hold'))
      return
    }
    const act = ACTS[following.step.kind] as Doing<StepKind>
    if ('makes' in act) {
      const { single, said, send } = await act.makes(app, following)
      await makeClaimed(app, [single], async (work, keep) => {
        if (!(await waitsStill(work, row))) return
        const made = one(await keep())
        if (send) await work.enqueue('send-made', { agreementIds: [made], by: following.by.id })
        await done(work, row, { said, made })
      })
      return
    }
    const outside = 'outside' in act ? await act.outside(app, following) : null
    await transaction(app, async (work) => {
      if (!(await waitsStill(work, row))) return
      await done(work, row, 'inside' in act ? await act.inside(work, following) : outside!)
    })
  } catch (error) {
    await failed(app, row, error)
  }
}

/** Whether a step waits still; another worker may have ended it meanwhile, and what that did counts. */
async function waitsStill({ db }: Work, { id }: Row): Promise<boolean> {
  const [now] = await db
    .select({ state: aftermathStep.state })
    .from(aftermathStep)
    .where(eq(aftermathStep.id, id))
    .for('update')
  return now?.state === 'waiting'
}

async function done(work: Work, row: Row, came: Came): Promise<void> {
  await end(work, row, 'do', came.said, came.made ?? null)
  await happened(work, row.agreementId, null, {
    act: 'followed',
    detail: { step: row.step.kind, came: came.said },
  })
}

const end = (
  { db, now }: Ground,
  { id, tries }: Row,
  move: 'do' | 'skip' | 'fail',
  said: string,
  madeId: string | null = null,
) => {
  const { to, where } = moving(aftermathStep.state, FOLLOWING, move)
  return db
    .update(aftermathStep)
    .set({ state: to, said: cut(said, 1000), madeId, tries: tries + 1, heldUntil: null, endedAt: now() })
    .where(and(eq(aftermathStep.id, id), where))
}

/** What cannot be done fails with the reason; what came to nothing is tried again, a good while, and fails then. */
async function failed(app: App, row: Row, error: unknown): Promise<void> {
  const refused = error instanceof Refusal || error instanceof BudgetSpent
  const expected = refused || ('outside' in ACTS[row.step.kind] && error instanceof Error)
  if (!expected) app.log.error({ err: error, step: row.id }, 'a step of what follows could not be done')
  const why = expected ? (error as Error).message : 'It met a fault of the server; the log says which.'
  if (!refused && row.tries + 1 < TRIES) {
    await app.db
      .update(aftermathStep)
      .set({
        tries: row.tries + 1,
        said: cut(why, 1000),
        dueAt: new Date(app.now().getTime() + pauseAfter(row.tries + 1)),
        heldUntil: null,
      })
      .where(and(eq(aftermathStep.id, row.id), eq(aftermathStep.state, 'waiting')))
    return
  }
  await transaction(app, async (work) => {
    await end(work, row, 'fail', why)
    await happened(work, row.agreementId, null, {
      act: 'not followed',
      detail: { step: row.step.kind, why: cut(why, 500) },
    })
    await tell(work, row, why)
  })
}

/** Writes to whoever the step names, once for each time that it failed. */
async function tell(work: Work, row: Row, why: string): Promise<void> {
  const [to] = await work.db.select().from(person).where(eq(person.id, row.step.tell))
  if (!to || to.leftAt) return
  const about = one(await work.db.select().from(agreement).where(eq(agreement.id, row.agreementId)))
  await enqueueEmail(work, {
    key: `aftermath-failed:${row.id}:${work.now().toISOString()}`,
    agreementId: row.agreementId,
    to: to.email,
    subject: `Not done: what follows ${about.number}`,
    body: {
      greeting: `${to.name},`,
      paragraphs: [
        `After ${about.number}, ${about.name}, this could not be done: ${describeStep(row.step, () => 'it')}.`,
        why,
        'It stands on your desk, and can be tried again from there.',
      ],
      link: { label: 'See what follows', url: `${work.settings.publicUrl}/agreements/${row.agreementId}` },
      attachment: null,
      foot: about.number,
    },
  })
}

async function followingOf(app: App, { id, step, agreementId, at, byId }: Row): Promise<Following> {
  const row = one(await app.db.select().from(agreement).where(eq(agreement.id, agreementId)))
  const bundle = await bundleOf(app, row)
  const by = one(
    await app.db
      .select()
      .from(person)
      .where(eq(person.id, byId ?? row.sentBy ?? row.createdBy)),
  )
  const sha256 = row.executedSha256 ?? (await documentOf(app.db, row)).fileSha256
  const [stored] = await app.db.select({ size: file.size }).from(file).where(eq(file.sha256, sha256))
  return {
    id,
    step,
    row: row,
    bundle,
    context: new Map(
      bundle.parts.flatMap(({ outline }) => [...completeRecord(outline, { ...row.data }).context]),
    ),
    file: { sha256, size: stored?.size ?? 0 },
    by: { ...toPerson(by), via: { kind: 'schedule', what: describeStep(step, () => 'it') } },
    at,
  }
}

/** Whether a step's condition is true of the agreement. */
function holds({ step, context }: Following): boolean {
  if (!step.when.trim()) return true
  const compiled = compileExpression(step.when)
  if (!compiled.ok) throw new Refusal(422, 'Not sound', `Its condition: ${compiled.problem.message}`)
  return withBudget(STEPS, () => compiled.expression.evaluate(context)) === true
}
