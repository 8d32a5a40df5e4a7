import { randomBytes } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { whoseTurn } from '#core/agreement/signing.ts'
import type { App } from '#server/app/app.ts'
import { agreement, edition, party } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Work } from '#server/app/transaction.ts'
import { sha256 } from '#server/files/store.ts'
import { notFound, Refusal } from '#server/ground/problem.ts'
import { isRead, makeMove } from './agreements.ts'
import { post } from './mails.ts'
import { requireShelf } from '#server/services/templates/shelves.ts'
import { happened } from './trail.ts'

class Unread extends Refusal {}

/**
 * Sends each agreement in a transaction of its own: one that cannot go does not hold up the others. What nobody has read
 * in its wording goes only if whoever sends says so.
 */
export async function sendAgreements(app: App, by: Person, ids: readonly string[], unread: boolean) {
  let sent = 0
  let notRead = 0
  const refused: { number: string; problem: string }[] = []
  for (const id of new Set(ids)) {
    try {
      await transaction(app, (work) => sendOne(app, work, by, id, unread))
      sent++
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      if (error instanceof Unread) notRead++
      const [found] = await app.db
        .select({ number: agreement.number })
        .from(agreement)
        .where(eq(agreement.id, id))
      refused.push({ number: found?.number ?? id, problem: error.message })
    }
  }
  return { sent, refused, unread: notRead }
}

async function sendOne(app: App, work: Work, by: Person, id: string, unread: boolean): Promise<void> {
  const [found] = await work.db
    .select({ content: edition.content, row: agreement })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(eq(agreement.id, id))
    .for('update', { of: agreement })
  if (!found) throw notFound('agreement')
  const [made] = await work.db
    .select({ templateId: edition.templateId })
    .from(edition)
    .where(eq(edition.id, found.row.editionId))
  await requireShelf(work.db, by, [made!.templateId])
  // One changed by hand was read by whoever changed it.
  const read = found.row.content !== null || (await isRead(work.db, found.row))
  if (!read && !unread)
    throw new Unread(
      409,
      'Not read',
      `Nobody has read the wording of ${found.row.number}. Tick it as read in its run, or send it unread.`,
    )
  const signBy = new Date(
    app.now().getTime() + (found.row.signDays ?? found.content.sending.signByDays) * 86_400_000,
  )
  await work.db.update(agreement).set({ signBy }).where(eq(agreement.id, id))
  await makeMove(app, work.db, id, 'send')
  await happened(app, work, id, by.name, {
    act: read ? 'sent' : 'sent unread',
    detail: { 'sign by': signBy.toISOString() },
  })
  await inviteNext(app, work, id)
}

export const signingUrl = (app: App, token: string) => `${app.settings.publicUrl}/sign/${token}`

/** Writes to everyone whose turn it is and who has no link yet. True where nobody is left to sign. */
export async function inviteNext(app: App, work: Work, agreementId: string): Promise<boolean> {
  const [row] = await work.db.select().from(agreement).where(eq(agreement.id, agreementId))
  const parties = await work.db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, agreementId), eq(party.revision, row!.revision)))
  const turn = whoseTurn(parties.map((each) => ({ ...each, signedAt: each.signedAt?.toISOString() ?? null })))
  for (const next of turn) {
    if (next.invitedAt) continue
    const token = randomBytes(32).toString('base64url')
    await work.db
      .update(party)
      .set({ tokenHash: sha256(token), invitedAt: app.now() })
      .where(eq(party.id, next.id))
    await post(app, work, {
      key: `invite:${next.id}`,
      agreementId,
      to: next.email,
      subject: row!.subject,
      body: {
        greeting: `${next.name},`,
        paragraphs: [row!.message, `Sign by ${longDate(row!.signBy!)}.`],
        link: { label: 'Read and sign', url: signingUrl(app, token) },
        attachment: null,
      },
    })
    await happened(app, work, agreementId, null, {
      act: 'invited',
      detail: { name: next.name, email: next.email, role: next.label },
    })
  }
  return turn.length === 0
}

export const longDate = (date: Date) =>
  new Intl.DateTimeFormat('en-US', { dateStyle: 'long', timeZone: 'UTC' }).format(date)
