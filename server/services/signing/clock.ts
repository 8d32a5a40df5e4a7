import { and, asc, eq, lte } from 'drizzle-orm'
import { whoseTurn } from '#core/ceremony/parties.ts'
import { nextLook, noReminders, reminderDue, type ReminderPlan, remindersOf } from '#core/ceremony/times.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, edition } from '#server/db/schema.ts'
import { transitionAgreement } from '#server/services/agreements/agreements.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { partiesOf, tellSender } from '#server/services/agreements/parties.ts'
import { type Agreement, type Party, readerOf, writeTo } from './readers.ts'

// What comes by the clock while an agreement is out: reminders, and its end.

/** When those who have not signed are reminded: as this agreement says, else as its template does. */
export async function planOf(db: Db, row: Agreement): Promise<ReminderPlan> {
  if (row.plan) return row.plan
  const made = one(
    await db.select({ content: edition.content }).from(edition).where(eq(edition.id, row.editionId)),
  )
  const { remindAfter = [], remindBefore = [], remindUnopened = [] } = made.content.sending
  return { ...noReminders, after: remindAfter, before: remindBefore, unopened: remindUnopened }
}

/** Those who hold it up, with the reminders they get. */
async function waitedFor(db: Db, row: Agreement) {
  const { timeZone } = await organisationOf(db)
  const plan = await planOf(db, row)
  return whoseTurn(await partiesOf(db, row)).flatMap((each) =>
    each.invitedAt && row.signBy
      ? [
          {
            party: each,
            writtenAt: each.writtenAt ?? each.invitedAt,
            reminders: remindersOf(plan, timeZone, {
              invitedAt: each.invitedAt,
              openedAt: each.openedAt,
              signBy: row.signBy,
            }),
          },
        ]
      : [],
  )
}

/** Milliseconds after which what everyone has signed and nobody has sealed is put to it again. */
const SEALED_WITHIN = 15 * 60_000

/** Notes when the clock has something to do with an agreement next. To be called after whatever changes that. */
export async function lookAgain(work: Work, agreementId: string): Promise<void> {
  const [row] = await work.db.select().from(agreement).where(eq(agreement.id, agreementId))
  const waited = row?.state === 'out' ? await waitedFor(work.db, row) : []
  const lookAt =
    row?.state === 'out' && row.signBy
      ? waited.length
        ? nextLook(waited, row.signBy, work.now())
        : new Date(work.now().getTime() + SEALED_WITHIN)
      : null
  await work.db.update(agreement).set({ lookAt }).where(eq(agreement.id, agreementId))
}

/** Agreements that one run of the job looks at; the rest come with the next, five minutes later, or at once where it is full. */
const AT_ONCE = 500

/** Job: reminds those who have not signed, and lets lapse what was not signed in time. */
export async function watchSigning(app: App): Promise<void> {
  const due = await app.db
    .select({ id: agreement.id })
    .from(agreement)
    .where(and(eq(agreement.state, 'out'), lte(agreement.lookAt, app.now())))
    .orderBy(asc(agreement.lookAt))
    .limit(AT_ONCE)
  for (const { id } of due)
    await transaction(app, (work) => lookAt(work, id)).catch((error: unknown) =>
      // One that cannot be looked at does not hold up the others; it is looked at again.
      app.log.error({ err: error, agreement: id }, 'watching what is out'),
    )
  if (due.length === AT_ONCE) await transaction(app, ({ enqueue }) => enqueue('watch-signing', {}))
}

async function lookAt(work: Work, id: string): Promise<void> {
  const [row] = await work.db.select().from(agreement).where(eq(agreement.id, id)).for('update')
  if (row?.state !== 'out' || !row.signBy) return
  const waited = await waitedFor(work.db, row)
  // Nobody is waited for: it is being sealed, or whatever was to do it has given up.
  if (!waited.length) await work.enqueue('execute-agreement', { agreementId: id })
  else if (work.now() > row.signBy) return lapse(work, row)
  for (const { party: each, reminders, writtenAt } of waited) {
    const due = reminderDue(reminders, writtenAt, work.now())
    if (due) await remind(work, row, each, null, due.key)
  }
  await lookAgain(work, id)
}

/** Writes to a party again, with a link of its own; `by`: whoever asked for it, null: the plan did. */
export async function remind(
  work: Work,
  row: Agreement,
  of: Party,
  by: string | null,
  occasion: string,
): Promise<void> {
  const reader = await readerOf(work.db, row, of)
  const { say, day } = reader.speaker
  await writeTo(work, reader, {
    key: `remind-${occasion}`,
    subject: say('mail.remindSubject', { title: row.name }),
    paragraphs: [
      say('mail.remind', { title: row.name, day: day(of.invitedAt ?? work.now(), reader.zone) }),
      row.message,
    ],
    link: true,
  })
  await happened(work, row.id, by, {
    act: 'reminded to sign',
    detail: { name: of.name, email: of.email, role: of.label },
  })
}

/** The date has passed: nobody can sign any more, and those who were asked are told. */
async function lapse(work: Work, row: Agreement): Promise<void> {
  await transitionAgreement(work, row.id, 'lapse')
  await work.db.update(agreement).set({ lookAt: null }).where(eq(agreement.id, row.id))
  await happened(work, row.id, null, { act: 'lapsed', detail: { 'sign by': row.signBy!.toISOString() } })
  for (const each of await partiesOf(work.db, row))
    if (each.invitedAt && !each.signedAt && each.kind !== 'copy') {
      const reader = await readerOf(work.db, row, each)
      const { say } = reader.speaker
      await writeTo(work, reader, {
        key: `lapsed-${row.signBy!.toISOString()}`,
        subject: say('mail.lapsedSubject', { title: row.name }),
        paragraphs: [say('mail.lapsed', { title: row.name, from: reader.from })],
        link: false,
      })
    }
  await tellSender(work, row, {
    key: `lapsed:${row.id}:${row.signBy!.toISOString()}`,
    subject: `Lapsed: ${row.name}`,
    paragraphs: [
      `The date to sign ${row.name} by has passed. You can give it another date, take it back to revise it, or leave it ended.`,
    ],
  })
}
