import { Temporal } from 'temporal-polyfill'
import { dayIn } from '#core/organisation/organisation.ts'
import { cut } from '#core/text/cut.ts'
import { followUp } from '#server/db/schema.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { type Doing, filled } from './following.ts'

/** Somebody has something to do: it stands on their desk until they say that it is done. */
export const followUpAct: Doing<'follow-up'> = {
  inside: async (work, following) => {
    const { id, step, row, at } = following
    const { timeZone } = await organisationOf(work.db)
    const dueOn = Temporal.PlainDate.from(dayIn(timeZone, at)).add({ days: step.days }).toString()
    await work.db
      .insert(followUp)
      .values({
        id,
        agreementId: row.id,
        personId: step.person,
        text: cut(filled(following, step.text), 500),
        dueOn,
        createdAt: work.now(),
      })
      .onConflictDoNothing()
    return { said: `to be done until ${dueOn}` }
  },
}
