import { eq } from 'drizzle-orm'
import { type LinkStatus, type PartyAct, passageOf, type SigningAccess } from '#core/ceremony/gates.ts'
import { MOST_WRONG } from '#core/ceremony/parties.ts'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import type { Speaker } from '#core/languages/speak.ts'
import type { Ground } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { agreement, blankValue, party, revision } from '#server/db/schema.ts'
import { conflict, Refusal } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { hasShown, linkOf } from './links.ts'
import { documentOf, partiesOf, senderOf } from '#server/services/agreements/parties.ts'
import type { Agreement, Party } from './readers.ts'

/** Whoever comes by a link: the token in it, what their browser shows of an earlier proof, and where they come from. */
export interface Visitor {
  readonly token: string
  readonly proof: string | null
  readonly address: string
}

/** A link with all that the ceremony looks at. */
export interface Visit {
  readonly signer: Party
  readonly row: Agreement
  readonly parties: readonly Party[]
  readonly document: typeof revision.$inferSelect
  readonly values: readonly (typeof blankValue.$inferSelect)[]
  readonly passage: SigningAccess
  readonly speaker: Speaker
  readonly from: string
  readonly zone: string
  /** Whose device it is, where the link was made to be handed over there. */
  readonly atDeviceOf: string | null
  /** Come straight from an intake form: who they are rests on it alone. */
  readonly fromForm: boolean
}

const unknownLink = () =>
  new Refusal(
    404,
    'Link not known',
    'This link is not known. It may be cut off: open it from the mail again, or copy it whole.',
  )

/** Reads a visit; `lock`: for an act, so that what another changed meanwhile is seen. */
export async function visitOf({ db, now }: Ground, { token, proof }: Visitor, lock = false): Promise<Visit> {
  const before = await linkOf(db, token)
  if (!before) throw unknownLink()
  const ofParty = db.select().from(party).where(eq(party.id, before.partyId))
  const first = one(await ofParty)
  const byId = db.select().from(agreement).where(eq(agreement.id, first.agreementId))
  const row = one(await (lock ? byId.for('update') : byId))
  // After the lock.
  const { ended, atDeviceOf, fromForm } = (await linkOf(db, token))!
  const signer = one(await ofParty)
  const parties = await partiesOf(db, { id: row.id, revision: signer.revision })
  const document = await documentOf(db, { id: row.id, revision: signer.revision })
  const values = await db.select().from(blankValue).where(eq(blankValue.partyId, signer.id))
  const { name, timeZone, language } = await organisationOf(db)
  const speaker = speaks(signer.language ?? languageOf(language))
  const passage = passageOf(
    { ...row, parties, blanks: document.blanks },
    {
      ...signer,
      link: ended,
      consented: signer.consentedAt !== null,
      // Whoever hands the device over sees who takes it: that is the proof, and it is said so. Not past a lock.
      proved:
        (atDeviceOf !== null && signer.wrong < MOST_WRONG) ||
        signer.check === 'link' ||
        (await hasShown(db, signer.id, proof, now())),
      values: new Map(values.map(({ blankId, value }) => [blankId, value])),
    },
    now(),
    speaker.say,
  )
  return {
    signer: signer,
    row: row,
    parties,
    document,
    values,
    passage,
    speaker,
    from: `${(await senderOf(db, row)).says}, ${name}`,
    zone: timeZone,
    atDeviceOf,
    fromForm,
  }
}

/** Refuses what the ceremony does not allow now, and says why in the party’s language. */
export function must(visit: Visit, act: PartyAct): void {
  const { passage, speaker, from } = visit
  if (passage.may.has(act)) return
  const { standing } = passage
  const readable = passage.gates.length > 0
  if (readable && act !== 'prove' && passage.gates.some(({ gate, passed }) => gate === 'identity' && !passed))
    throw new Refusal(401, 'Not shown', speaker.say('refusal.identity'))
  if (standing !== 'open') throw conflict(closedText(speaker, standing, from))
  if ((act === 'fill' || act === 'finish') && !visit.signer.consentedAt)
    throw conflict(speaker.say('refusal.consent'))
  throw conflict(speaker.say('refusal.mayNot'))
}

const closedText = ({ say }: Speaker, standing: Exclude<LinkStatus, 'open'>, from: string): string =>
  say(`closed.${standing}.text`, { from })
