import { eq } from 'drizzle-orm'
import type { Actor } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { agreement, person } from '#server/db/schema.ts'
import { Refusal } from '#server/ground/problem.ts'
import { toPerson } from '#server/services/installation/people.ts'
import { sendAgreements } from './sending.ts'

/** Job: sends what was made to go at once and needs nobody's approval, in somebody's name; what is out already stays. */
export async function sendMade(app: App, agreementIds: readonly string[], byId: string): Promise<void> {
  const by = one(await app.db.select().from(person).where(eq(person.id, byId)))
  const actor: Actor = { ...toPerson(by), via: { kind: 'schedule', what: 'goes at once' } }
  for (const id of agreementIds) {
    const [row] = await app.db.select({ state: agreement.state }).from(agreement).where(eq(agreement.id, id))
    if (row?.state !== 'cleared') continue
    try {
      const { refused } = await sendAgreements(app, actor, [id], { unread: true, at: null })
      for (const { problem } of refused)
        app.log.warn({ agreement: id, problem }, 'what was to go at once did not go')
    } catch (error) {
      // Whoever it was to go for may not send now: it waits for somebody who may.
      if (!(error instanceof Refusal)) throw error
      app.log.warn({ agreement: id, problem: error.message }, 'what was to go at once did not go')
    }
  }
}
