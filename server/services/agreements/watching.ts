import { eq } from 'drizzle-orm'
import { hourIn } from '#core/organisation/organisation.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { person, step } from '#server/db/schema.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { today } from '#server/services/rules/directory.ts'
import { mailDeciders } from './asking.ts'
import { authorityNow, decidersNow, waitingSteps } from './deciding.ts'
import { enqueueEmail } from './mails.ts'
import { happened } from './trail.ts'

// What comes by the clock: approvals that are overdue, and the one mail a day.

/** Job: finds steps that are overdue, asks those whom their table names to decide them too, and tells everybody concerned. */
export async function watchApprovals(app: App): Promise<void> {
  const now = app.now()
  const overdue = (await waitingSteps(app)).filter(
    ({ step: found }) => found.dueAt && found.dueAt <= now && !found.escalatedAt,
  )
  for (const { step: found, agreement: row } of overdue)
    await transaction(app, async (work) => {
      const [locked] = await work.db.select().from(step).where(eq(step.id, found.id)).for('update')
      if (locked?.state !== 'waiting' || locked.escalatedAt) return
      const who = [...locked.who, ...locked.escalateTo]
      await work.db.update(step).set({ who, escalatedAt: now }).where(eq(step.id, found.id))
      const deciders = decidersNow(await authorityNow(work), { ...locked, who }, row)
      await mailDeciders(work, row, locked, deciders, `overdue:${found.id}`, 'It is overdue.')
      await happened(work, row.id, null, {
        act: 'overdue',
        detail: { as: locked.approver, to: deciders.map(({ name }) => name).join(', ') || 'nobody' },
      })
    })
}

/** The hour of the day, in the organisation's calendar, from which the day's mail goes out. */
const MORNING = 7

/** Job: one mail a day, in the morning, to those who want to hear of their approvals so, about all that wait for them. */
export async function digestApprovals(app: App): Promise<void> {
  const { timeZone } = await organisationOf(app.db)
  if (hourIn(timeZone, app.now()) < MORNING) return
  const waiting = await waitingSteps(app)
  const day = await today(app)
  const readers = await app.db.select().from(person).where(eq(person.approvalMail, 'daily'))
  for (const reader of readers) {
    const theirs = waiting.filter(({ deciders }) => deciders.some(({ id }) => id === reader.id))
    if (!theirs.length) continue
    const told = theirs.slice(0, 40).map(({ agreement: row, step: found }) => `${row.name}: ${found.reason}`)
    await transaction(app, (work) =>
      enqueueEmail(work, {
        key: `digest:${reader.id}:${day}`,
        agreementId: null,
        to: reader.email,
        subject: `${theirs.length} to approve`,
        body: {
          greeting: `${reader.name},`,
          paragraphs: [
            theirs.length === 1
              ? 'One agreement waits for your approval.'
              : `${theirs.length} agreements wait for your approval.`,
            ...told,
            ...(theirs.length > told.length ? [`And ${theirs.length - told.length} more.`] : []),
          ],
          link: { label: 'Open them', url: `${work.settings.publicUrl}/approvals` },
          attachment: null,
        },
      }),
    )
  }
}
