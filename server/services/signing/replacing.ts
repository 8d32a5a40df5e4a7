import { eq } from 'drizzle-orm'
import type { LinkEnd } from '#core/ceremony/gates.ts'
import type { Act, ActDetails } from '#core/trail/acts.ts'
import { peopleHash } from '#core/trail/against.ts'
import type { Work } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { blankValue, handedFile, paperPage, party, sentCode, shownProof } from '#server/db/schema.ts'
import { conflict, invalid } from '#server/ground/problem.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { NOTHING_PASSED } from '#server/services/agreements/anew.ts'
import { lookAgain } from './clock.ts'
import { endLinks } from './links.ts'
import { partiesOf, settingsNow } from '#server/services/agreements/parties.ts'
import { type Agreement, type Party, readerOf, writeTo } from './readers.ts'
import { invite } from './sending.ts'

/** What the trail keeps of who the parties are now. */
export const peopleNow = async (work: Work, row: Agreement): Promise<string> =>
  peopleHash(await partiesOf(work.db, row))

/**
 * Puts somebody else in a party's place, who begins anew: no consent, nothing filled in, nothing shown. Whoever was to sign is told,
 * and the other one invited, where it is their turn.
 */
export async function replaceSigner(
  work: Work,
  row: Agreement,
  of: Party,
  to: { readonly name: string; readonly email: string },
  told: {
    readonly why: LinkEnd
    readonly by: string
    readonly act: (detail: ActDetails['signer replaced']) => Act
  },
): Promise<void> {
  const { db } = work
  if (of.signedAt) throw conflict(`${of.name} has signed already.`)
  if (of.email === to.email && of.name === to.name) throw invalid('That is who signs already.')
  const at = work.now()
  await endLinks(db, of.id, told.why, at)
  await db.delete(blankValue).where(eq(blankValue.partyId, of.id))
  await db.delete(handedFile).where(eq(handedFile.partyId, of.id))
  await db.delete(paperPage).where(eq(paperPage.partyId, of.id))
  await db.delete(shownProof).where(eq(shownProof.partyId, of.id))
  await db.delete(sentCode).where(eq(sentCode.partyId, of.id))
  const now = one(
    await db
      .update(party)
      .set({
        name: to.name,
        email: to.email,
        // What belonged to the other one: their post, telephone, message, and what they have passed.
        title: '',
        phone: '',
        linkBy: 'mail',
        message: '',
        check: of.check === 'text code' ? 'mail code' : of.check,
        ...NOTHING_PASSED,
      })
      .where(eq(party.id, of.id))
      .returning(),
  )
  await happened(
    work,
    row.id,
    told.by,
    told.act({
      role: of.label,
      before: of.name,
      name: to.name,
      email: to.email,
      people: await peopleNow(work, row),
      settings: await settingsNow(work.db, row),
    }),
  )
  if (!of.invitedAt) return
  const occasion = `${told.why}-${at.toISOString()}`
  if (told.why !== 'handed over') {
    const former = await readerOf(db, row, of)
    await writeTo(work, former, {
      key: `taken-${occasion}`,
      subject: former.speaker.say('mail.takenSubject', { title: row.name }),
      paragraphs: [former.speaker.say('mail.taken', { title: row.name })],
      link: false,
    })
  }
  const reader = await readerOf(db, row, now)
  const { say } = reader.speaker
  const words = { title: row.name, before: of.name, from: reader.from, role: of.label }
  await invite(work, row, now, {
    key: `invite-${occasion}`,
    subject: told.why === 'handed over' ? say('mail.handedSubject', words) : row.subject,
    opening: [say(told.why === 'handed over' ? 'mail.handed' : 'mail.replaced', words)],
  })
  await lookAgain(work, row.id)
}
