import { eq } from 'drizzle-orm'
import type { App } from '#server/app/app.ts'
import { agreement, person } from '#server/db/schema.ts'
import { toPerson } from '#server/services/installation/people.ts'
import { sendAgreements } from './sending.ts'

/** Job: sends what was made to go at once and needs nobody's approval, in somebody's name; what is out already stays. */
export async function sendMade(app: App, agreementIds: readonly string[], byId: string): Promise<void> {
  const [by] = await app.db.select().from(person).where(eq(person.id, byId))
  for (const id of agreementIds) {
    const [row] = await app.db.select({ state: agreement.state }).from(agreement).where(eq(agreement.id, id))
    if (row?.state !== 'cleared') continue
    const { refused } = await sendAgreements(app, toPerson(by!), [id], { unread: true, at: null })
    for (const each of refused) app.log.warn({ agreement: id, each }, 'what was to go at once did not go')
  }
}
