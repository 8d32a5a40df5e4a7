import { and, eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { Decider } from '#core/approvers/authority.ts'
import type { Work } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, step } from '#server/db/schema.ts'
import { conflict, forbidden, notFound } from '#server/ground/problem.ts'
import { authorityNow, decidersNow } from './deciding.ts'
import { presentSteps, type Step } from './routes.ts'

type Agreement = typeof agreement.$inferSelect

/** An agreement locked for an act on one of its steps, and in what capacity whoever acts may decide it. */
export async function opened(work: Work, by: Person, agreementId: string, stepId: string) {
  const { db } = work
  const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId)).for('update')
  const [found] = await db
    .select()
    .from(step)
    .where(and(eq(step.id, stepId), eq(step.agreementId, agreementId)))
  if (!row || !found) throw notFound('approval')
  const authority = await authorityNow(work)
  const as = decidersNow(authority, found, row).find(({ id }) => id === by.id)
  return { row, step: found, authority, as: as ?? null }
}

/** Refuses whoever may not decide the step, and says why. */
export function refuseOthers(
  by: Person,
  row: Agreement,
  found: Step,
  as: Decider | null,
): asserts as is Decider {
  if (as) return
  throw forbidden(
    row.shapedBy.includes(by.id)
      ? 'Nobody approves an agreement that they started or changed themselves.'
      : `This approval is for ${found.approver}.`,
  )
}

/** A step that waits, of the round and revision that count. */
export async function refuseDecided(db: Db, row: Agreement, found: Step): Promise<void> {
  const present = await presentSteps(db, row)
  if (found.state === 'to come' && present.some(({ id }) => id === found.id))
    throw conflict('Earlier approvals are asked for first.')
  if (found.state !== 'waiting' || !present.some(({ id }) => id === found.id))
    throw conflict('This has been decided already.')
}
