import { randomUUID } from 'node:crypto'
import { eq, inArray } from 'drizzle-orm'
import { dueAt } from '#core/next-steps/due.ts'
import type { Moment } from '#core/next-steps/steps.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { aftermathStep, agreement, edition, packet } from '#server/db/schema.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { listsOf } from './lists.ts'

/**
 * Job: writes down what follows an agreement whose moment has come, as the list is now. A packet's agreement has its packet's
 * list; without one, that of its first template. Asked again, nothing is written twice.
 */
export async function planAftermath(app: App, agreementId: string, moment: Moment, at: Date): Promise<void> {
  const [row] = await app.db.select().from(agreement).where(eq(agreement.id, agreementId))
  if (!row) return
  const steps = (await stepsFor(app, row)).filter(({ on }) => on === moment)
  if (steps.length === 0) return
  const { timeZone } = await organisationOf(app.db)
  await transaction(app, async ({ db, enqueue }) => {
    await db
      .insert(aftermathStep)
      .values(
        steps.map((step, place) => ({
          id: randomUUID(),
          agreementId,
          step,
          stepId: step.id,
          place,
          state: 'waiting' as const,
          dueAt: dueAt(at, step.delay, timeZone),
          at,
        })),
      )
      .onConflictDoNothing()
    await enqueue('do-aftermath', {})
  })
}

async function stepsFor(app: App, { editionId, packetEditions }: typeof agreement.$inferSelect) {
  const editions = await app.db
    .select({ id: edition.id, templateId: edition.templateId })
    .from(edition)
    .where(inArray(edition.id, packetEditions.length ? packetEditions : [editionId]))
  const templates = (packetEditions.length ? packetEditions : [editionId]).map(
    (id) => editions.find((each) => each.id === id)!.templateId,
  )
  const packets = packetEditions.length
    ? (await app.db.select().from(packet)).filter(({ templates: own }) => own.join() === templates.join())
    : []
  const lists = await listsOf(app, [...packets.map(({ id }) => id), templates[0]!])
  const list =
    lists.find(({ of }) => packets.some(({ id }) => id === of)) ?? lists.find(({ of }) => of === templates[0])
  return list?.steps ?? []
}
