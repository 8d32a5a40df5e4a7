import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { addressFault } from '#core/ceremony/doubts.ts'
import { stateWord } from '#core/agreement/states.ts'
import { whoseTurn } from '#core/ceremony/parties.ts'
import { signByOf } from '#core/ceremony/times.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { agreement } from '#server/db/schema.ts'
import { conflict, invalid, Refusal } from '#server/ground/problem.ts'
import { isRead, transitionAgreement } from '#server/services/agreements/agreements.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { lookAgain } from './clock.ts'
import { forSender } from './for-sender.ts'
import { deliverNotice } from './notice.ts'
import { oneByOne, toRefusalViews } from './one-by-one.ts'
import { partiesOf, settingsNow } from '#server/services/agreements/parties.ts'
import { type Agreement, type Party, readerOf, writeTo } from './readers.ts'

class Unread extends Refusal {}

/**
 * Sends each agreement in a transaction of its own: one that cannot go does not hold up the others. What nobody has read
 * in its wording goes only if whoever sends says so.
 */
export async function sendAgreements(
  app: App,
  by: Person,
  ids: readonly string[],
  { unread, at }: { readonly unread: boolean; readonly at: Date | null },
) {
  await requireMay(app, by, 'send')
  if (at) mustCome(app.now(), at)
  const { done, refused } = await oneByOne(app, ids, (work, id) => sendOne(work, by, id, { unread, at }))
  return {
    sent: done,
    refused: toRefusalViews(refused),
    unread: refused.filter(({ error }) => error instanceof Unread).length,
  }
}

/** The furthest ahead that something can be set to go by itself, in days. */
const FURTHEST = 366

function mustCome(now: Date, at: Date): void {
  const fault =
    at <= now
      ? 'That time has passed.'
      : at.getTime() > now.getTime() + FURTHEST * 86_400_000
        ? 'A year from today is the furthest.'
        : null
  if (fault) throw invalid(fault, [{ pointer: '/at', detail: fault }])
}

/** Sends one agreement, or a notice; `at`: has it go by itself then. */
export async function sendOne(
  work: Work,
  by: Person,
  id: string,
  { unread, at = null }: { readonly unread: boolean; readonly at?: Date | null },
): Promise<void> {
  const found = await forSender(work.db, by, id, true)
  // One changed by hand was read by whoever changed it.
  const read = found.row.content !== null || (await isRead(work.db, found.row))
  if (!read && !unread)
    throw new Unread(
      409,
      'Not read',
      `Nobody has read the wording of ${found.row.number}. Tick it as read in its run, or send it unread.`,
    )
  const fault = (await partiesOf(work.db, found.row)).map(addressFault).find((each) => each !== null)
  if (fault) throw conflict(fault)
  if (found.row.introduction && !found.row.introduction.transcript.trim())
    throw conflict(
      `${found.row.number}: type what is said in the recording; some of those who sign cannot hear it.`,
    )
  if (at) return setTime(work, by, found.row, { at, unread: !read })
  const { timeZone } = await organisationOf(work.db)
  const sentAt = work.now()
  const signBy =
    found.row.signBy && found.row.signBy > sentAt
      ? found.row.signBy
      : signByOf(timeZone, sentAt, found.row.signDays ?? found.content.sending.signByDays)
  await work.db
    .update(agreement)
    .set({ signBy: found.row.notice ? null : signBy, sentAt, sentBy: by.id })
    .where(eq(agreement.id, id))
  if (found.row.notice) {
    await transitionAgreement(work, id, 'deliver')
    return deliverNotice(work, await rowOf(work, id), by.name)
  }
  await transitionAgreement(work, id, 'send')
  await happened(work, id, by.name, {
    act: read ? 'sent' : 'sent unread',
    detail: { 'sign by': signBy.toISOString(), settings: await settingsNow(work.db, found.row) },
  })
  await inviteCopies(work, id)
  await inviteNext(work, id)
}

async function setTime(
  work: Work,
  by: Person,
  { id, number, state }: Agreement,
  { at, unread }: { readonly at: Date; readonly unread: boolean },
): Promise<void> {
  if (state !== 'cleared') throw conflict(`${number} is ${stateWord(state)}; it cannot be set to go.`)
  await work.db
    .update(agreement)
    .set({ goesAt: at, goesBy: by.id, goesUnread: unread, changedAt: work.now() })
    .where(eq(agreement.id, id))
  await happened(work, id, by.name, { act: 'time to go set', detail: { at: at.toISOString() } })
}

const rowOf = async (work: Work, id: string): Promise<Agreement> =>
  (await work.db.select().from(agreement).where(eq(agreement.id, id)))[0]!

/** Those who may read it while it is being signed. */
async function inviteCopies(work: Work, id: string): Promise<void> {
  const row = await rowOf(work, id)
  for (const each of await partiesOf(work.db, row))
    if (each.kind === 'copy' && each.copyNow) {
      const reader = await readerOf(work.db, row, each)
      const { say } = reader.speaker
      await writeTo(work, reader, {
        key: 'copy',
        subject: say('mail.copySubject', { title: row.name }),
        paragraphs: [say('mail.copyNow', { from: reader.from, title: row.name })],
        link: true,
      })
    }
}

/** Invites one party, and says so in the trail. `opening`: what stands before the message of all. */
export async function invite(
  work: Work,
  row: Agreement,
  of: Party,
  {
    key,
    subject = row.subject,
    opening = [],
  }: { readonly key: string; readonly subject?: string; readonly opening?: readonly string[] },
): Promise<void> {
  await writeTo(work, await readerOf(work.db, row, of), {
    key,
    subject,
    paragraphs: [...opening, row.message],
    link: true,
  })
  await happened(work, row.id, null, {
    act: 'invited',
    detail: { name: of.name, email: of.email, role: of.label },
  })
}

/** Writes to everyone whose turn it is and who was not written to yet. True where nobody is left to sign. */
export async function inviteNext(work: Work, agreementId: string): Promise<boolean> {
  const row = await rowOf(work, agreementId)
  const turn = whoseTurn(await partiesOf(work.db, row))
  for (const next of turn) if (!next.invitedAt) await invite(work, row, next, { key: 'invite' })
  await lookAgain(work, agreementId)
  return turn.length === 0
}
