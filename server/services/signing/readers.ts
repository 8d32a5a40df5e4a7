import { eq } from 'drizzle-orm'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { Speaker } from '#core/languages/speak.ts'
import type { Work, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, party } from '#server/db/schema.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { senderOf } from '#server/services/agreements/parties.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { newLink } from './links.ts'
import { postText } from './texts.ts'

// What parties are written, each in their language.

export type Party = typeof party.$inferSelect
export type Agreement = typeof agreement.$inferSelect

/** A party with all that writing to them takes. */
export interface Reader {
  readonly party: Party
  readonly row: Agreement
  readonly speaker: Speaker
  /** Who sends it, as parties read it: person, then organisation. */
  readonly from: string
  readonly zone: string
}

export async function readerOf(db: Db, row: Agreement, of: Party): Promise<Reader> {
  const { name, timeZone, language } = await organisationOf(db)
  const sender = await senderOf(db, row)
  return {
    party: of,
    row,
    speaker: speaks(of.language ?? languageOf(language)),
    from: `${sender.says}, ${name}`,
    zone: timeZone,
  }
}

export const signingUrl = (ground: Ground, token: string) => `${ground.settings.publicUrl}/sign/${token}`

interface Occasion {
  /** Names the mail once and for all, behind the party’s id. */
  readonly key: string
  readonly subject: string
  readonly paragraphs: readonly string[]
  /** Whether a link goes along, a new one each time. */
  readonly link: boolean
}

/** What stands at the end of every mail with a link: what is said to them alone, the code they need, the last day. */
export function closingOf({ party: to, row, speaker: { say, day }, from, zone }: Reader): readonly string[] {
  return [
    ...(to.message ? [say('mail.alone', { message: to.message })] : []),
    ...(to.check === 'agreed code' ? [say('mail.code', { from })] : []),
    ...(to.kind !== 'copy' && row.signBy ? [say('mail.signBy', { day: day(row.signBy, zone) })] : []),
  ]
}

/** A link as a text to a telephone says it. */
export const textOf = ({ party: { kind }, row, speaker: { say }, from }: Reader, url: string): string =>
  say(kind === 'copy' ? 'text.read' : kind === 'assenter' ? 'text.agree' : 'text.sign', {
    from,
    title: row.name,
    url,
  })

/** Writes to a party; with a link, they count as written to. */
export async function writeTo(work: Work, reader: Reader, occasion: Occasion): Promise<void> {
  const { party: to, row, speaker, zone } = reader
  const { say } = speaker
  const at = work.now()
  const acts = to.kind !== 'copy'
  let url: string | null = null
  if (occasion.link) {
    url = signingUrl(work, await newLink(work.db, to.id, at))
    await work.db
      .update(party)
      .set({ invitedAt: to.invitedAt ?? at, writtenAt: at })
      .where(eq(party.id, to.id))
  }
  if (url !== null && to.linkBy === 'text')
    return postText(work, {
      key: `${occasion.key}:${to.id}`,
      agreementId: row.id,
      to: to.phone,
      text: textOf(reader, url),
    })
  const closing = url !== null ? closingOf(reader) : []
  await enqueueEmail(work, {
    key: `${occasion.key}:${to.id}`,
    agreementId: row.id,
    partyId: to.id,
    to: to.email,
    subject: occasion.subject,
    body: {
      language: speaker.language,
      greeting: say('mail.greeting', { name: to.name }),
      paragraphs: [...occasion.paragraphs, ...closing],
      link:
        url !== null
          ? {
              label: say(
                to.kind === 'copy' ? 'mail.read' : to.kind === 'assenter' ? 'mail.agree' : 'mail.sign',
              ),
              url,
              keep: say('mail.keep'),
            }
          : null,
      attachment: null,
      calendar:
        url && acts && row.signBy
          ? {
              id: `sign-by-${to.id}`,
              day: dayIn(zone, row.signBy),
              title: say('mail.calendar', { title: row.name }),
            }
          : undefined,
      foot: say('mail.number', { number: row.number }),
    },
  })
}
