import { and, asc, desc, eq, isNotNull } from 'drizzle-orm'
import type * as v from 'valibot'
import type { stepTold } from '#contract/next-steps.ts'
import type { Person } from '#contract/person.ts'
import { describeStep } from '#core/next-steps/steps.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { FOLLOWING } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { aftermathStep, agreement, edition, folder, person, template, webhook } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { requireShelf } from '#server/services/templates/shelves.ts'

type Told = v.InferOutput<typeof stepTold>
type Row = typeof aftermathStep.$inferSelect

/** What ids of steps stand for. */
async function namesOf(app: App): Promise<(id: string) => string> {
  const all = await Promise.all([
    app.db.select({ id: folder.id, name: folder.name }).from(folder),
    app.db.select({ id: webhook.id, name: webhook.name }).from(webhook),
    app.db.select({ id: person.id, name: person.name }).from(person),
    app.db.select({ id: template.id, name: template.name }).from(template),
  ])
  const names = new Map(all.flat().map(({ id, name }) => [id, name]))
  return (id) => names.get(id) ?? 'something that is gone'
}

const shape = (row: Row, of: { number: string; name: string }, named: (id: string) => string): Told => ({
  id: row.id,
  agreement: { id: row.agreementId, ...of },
  says: describeStep(row.step, named),
  on: row.step.on,
  state: row.state,
  dueAt: row.dueAt.toISOString(),
  endedAt: row.endedAt?.toISOString() ?? null,
  tries: row.tries,
  said: row.said,
  made: row.madeId,
  tell: named(row.step.tell),
})

const rows = (app: App) =>
  app.db
    .select({ row: aftermathStep, number: agreement.number, name: agreement.name })
    .from(aftermathStep)
    .innerJoin(agreement, eq(agreement.id, aftermathStep.agreementId))

/** What follows an agreement, in the order in which it is due. */
export async function stepsOf(app: App, agreementId: string): Promise<Told[]> {
  const found = await rows(app)
    .where(eq(aftermathStep.agreementId, agreementId))
    .orderBy(asc(aftermathStep.at), asc(aftermathStep.dueAt), asc(aftermathStep.place))
  const named = await namesOf(app)
  return found.map(({ row, ...of }) => shape(row, of, named))
}

/** Steps that failed, for whoever they name; of those who have left, for everyone who may see to settings. */
export async function failedSteps(app: App, by: Person): Promise<Told[]> {
  const found = await rows(app)
    .where(eq(aftermathStep.state, 'failed'))
    .orderBy(desc(aftermathStep.endedAt))
    .limit(500)
  const gone = new Set(
    (await app.db.select({ id: person.id }).from(person).where(isNotNull(person.leftAt))).map(({ id }) => id),
  )
  const named = await namesOf(app)
  return found
    .filter(
      ({ row }) => row.step.tell === by.id || (gone.has(row.step.tell) && by.rights.includes('settings')),
    )
    .slice(0, 100)
    .map(({ row, ...of }) => shape(row, of, named))
}

/** Has a step that failed be tried again, or lets it be: by whoever may send such agreements. */
export async function settleStep(app: App, by: Person, id: string, what: 'again' | 'leave'): Promise<void> {
  await requireMay(app, by, 'send')
  await transaction(app, async ({ db, enqueue, now }) => {
    const [found] = await db
      .select({ state: aftermathStep.state, templateId: edition.templateId })
      .from(aftermathStep)
      .innerJoin(agreement, eq(agreement.id, aftermathStep.agreementId))
      .innerJoin(edition, eq(edition.id, agreement.editionId))
      .where(eq(aftermathStep.id, id))
    if (!found) throw notFound('step')
    await requireShelf(db, by, [found.templateId])
    const { to, where } = moving(aftermathStep.state, FOLLOWING, what)
    const settled = await db
      .update(aftermathStep)
      .set({
        state: to,
        ...(what === 'again'
          ? { byId: by.id, tries: 0, dueAt: now(), heldUntil: null, endedAt: null }
          : { said: `left by ${by.name}`, endedAt: now() }),
      })
      .where(and(eq(aftermathStep.id, id), where))
      .returning({ id: aftermathStep.id })
    if (!settled.length) throw conflict('It is done, or let be, already.')
    await enqueue('do-aftermath', {})
  })
}
