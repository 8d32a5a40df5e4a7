import { randomUUID } from 'node:crypto'
import { and, eq, max } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { routeBundle } from '#core/packet/bundle.ts'
import { routingActs } from '#core/trail/acts.ts'
import type { App } from '#server/app/app.ts'
import { agreement, step } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, forbidden, notFound } from '#server/ground/problem.ts'
import { makeMove, mayDecide } from './agreements.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { activeRules } from '#server/services/rules/rules.ts'
import { happened } from './trail.ts'

export type Decision = { readonly decision: 'approve' | 'return'; readonly note: string }

/** Approves or returns one step. Two deciders at once: the first counts, the second is told. */
export async function decide(
  app: App,
  by: Person,
  agreementId: string,
  stepId: string,
  { decision, note }: Decision,
): Promise<void> {
  await transaction(app, async (work) => {
    const { db } = work
    const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId)).for('update')
    const [found] = await db
      .select()
      .from(step)
      .where(and(eq(step.id, stepId), eq(step.agreementId, agreementId)))
    if (!row || !found) throw notFound('approval')
    if (!mayDecide(by, found.approver, row.shapedBy))
      throw forbidden(
        row.shapedBy.includes(by.id)
          ? 'Nobody approves an agreement that they started or changed themselves.'
          : `This approval is for the ${found.approver}.`,
      )
    if (found.state !== 'waiting' || row.revision !== found.revision)
      throw conflict('This has been decided already.')
    const state = decision === 'approve' ? 'approved' : 'returned'
    await db
      .update(step)
      .set({ state, note: note || null, decidedAt: app.now(), decidedBy: by.id })
      .where(eq(step.id, stepId))
    const moved = await makeMove(app, db, agreementId, decision)
    await happened(app, work, agreementId, by.name, {
      act: state,
      detail: { as: found.approver, reason: found.reason, note },
    })
    if (moved.state === 'cleared')
      await happened(app, work, agreementId, null, {
        act: 'cleared',
        detail: { reason: 'All approvals are given' },
      })
  })
}

/** Puts a returned agreement to approval again, by the rules in force now. */
export async function routeAgain(app: App, by: Person, agreementId: string): Promise<void> {
  await transaction(app, async (work) => {
    const { db } = work
    const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId)).for('update')
    if (!row) throw notFound('agreement')
    const routed = routeBundle(await bundleOf(app, row), await activeRules(db), row.data, {
      changed_by_hand: row.content !== null,
    })
    if (!routed.ok) throw conflict(routed.problem)
    const [last] = await db
      .select({ round: max(step.round) })
      .from(step)
      .where(and(eq(step.agreementId, agreementId), eq(step.revision, row.revision)))
    const round = (last?.round ?? 0) + 1
    for (const { approver, reason } of routed.steps)
      await db.insert(step).values({
        id: randomUUID(),
        agreementId,
        revision: row.revision,
        round,
        approver,
        reason,
        state: 'waiting',
        since: app.now(),
      })
    await makeMove(app, db, agreementId, 'route')
    await happened(app, work, agreementId, by.name, ...routingActs(routed.steps))
  })
}
