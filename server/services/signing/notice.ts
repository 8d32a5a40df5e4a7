import { and, eq } from 'drizzle-orm'
import { isEmail } from '#core/outline/coerce.ts'
import { readingOf } from '#core/ceremony/reading.ts'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import { fillBundle, mergeBundle } from '#core/packet/bundle.ts'
import type { App, Work, Ground } from '#server/app/app.ts'
import { type MailBody, party } from '#server/db/schema.ts'
import { documentText } from '#server/post/document-mail.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { documentOf, partiesOf } from '#server/services/agreements/parties.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import type { Agreement, Party } from './readers.ts'

// A document that nobody signs: its mail is all there is of it.

interface Letter {
  readonly row: Agreement
  /** SHA-256 of its pages. */
  readonly file: string
  readonly body: (to: { readonly name: string; readonly language: Party['language'] }) => MailBody
  /** Addresses that get the same besides its receivers. */
  readonly copies: readonly string[]
}

async function letterOf(ground: Ground, row: Agreement): Promise<Letter> {
  const { db } = ground
  const { fileSha256: file } = await documentOf(db, row)
  const bundle = await bundleOf(ground, row)
  const { language } = await organisationOf(db)
  const ours = languageOf(language)
  const readings = () =>
    mergeBundle(bundle, row.data, row.number).documents.map((each) =>
      readingOf(each.document, { role: '', blanks: [], idOf: (id) => id, linesOn: () => [], said: () => '' }),
    )
  const asText = row.notice === 'mail text' ? readings() : undefined
  const copies = (bundle.parts[0].content.sending.copies ?? []).map((pattern) =>
    fillBundle(bundle, row.data, pattern, row.number),
  )
  return {
    row,
    file,
    copies: [...copies, ...row.copies].filter(isEmail),
    body: ({ name, language: spoken }) => {
      const { say, language: tag } = speaks(spoken ?? ours)
      return {
        language: asText?.[0]?.language ?? tag,
        greeting: asText ? '' : say('mail.greeting', { name }),
        paragraphs: asText ? [] : row.message ? [row.message] : [say('mail.notice', { title: row.name })],
        document: asText,
        link: null,
        attachment: asText ? null : { name: `${row.fileName}.pdf`, sha256: file },
        extra: row.extra,
        foot: row.number,
      }
    },
  }
}

async function write(
  work: Work,
  { row, body }: Letter,
  to: Pick<Party, 'name' | 'email' | 'language'> & { readonly id?: string },
  occasion: string,
): Promise<void> {
  await enqueueEmail(work, {
    key: `${occasion}:${row.id}:${row.revision}:${to.id ?? to.email}`,
    agreementId: row.id,
    ...(to.id ? { partyId: to.id } : {}),
    to: to.email,
    subject: row.subject,
    body: body(to),
  })
}

/** What a receiver would read of it, as paragraphs. */
export async function noticeWords(
  app: App,
  row: Agreement,
): Promise<(to: Pick<Party, 'name' | 'language'>) => string[]> {
  const letter = await letterOf(app, row)
  return (to) => {
    const { greeting, paragraphs, document } = letter.body(to)
    return [greeting, ...paragraphs, ...(document ? documentText(document).split('\n\n') : [])].filter(
      Boolean,
    )
  }
}

/** Writes a notice to all who receive it, and to those who get a copy. */
export async function deliverNotice(work: Work, row: Agreement, by: string): Promise<void> {
  const letter = await letterOf(work, row)
  const at = work.now()
  const receivers = await partiesOf(work.db, row)
  for (const to of receivers) await write(work, letter, to, 'notice')
  await work.db
    .update(party)
    .set({ invitedAt: at, writtenAt: at })
    .where(and(eq(party.agreementId, row.id), eq(party.revision, row.revision)))
  const known = new Set(receivers.map(({ email }) => email.toLowerCase()))
  const { language } = await organisationOf(work.db)
  for (const email of new Set(letter.copies))
    if (!known.has(email.toLowerCase()))
      await write(
        work,
        letter,
        { name: email, email, language: languageOf(row.language, languageOf(language)) },
        'notice-copy',
      )
  await happened(work, row.id, by, {
    act: 'delivered',
    detail: { to: receivers.map(({ name, email }) => `${name} <${email}>`).join(', '), file: letter.file },
  })
}

/** Writes it once more to one of them, whose address was wrong. */
export async function deliverAgain(work: Work, row: Agreement, to: Party, by: string): Promise<void> {
  await write(work, await letterOf(work, row), to, `notice-${work.now().toISOString()}`)
  await work.db.update(party).set({ writtenAt: work.now() }).where(eq(party.id, to.id))
  await happened(work, row.id, by, {
    act: 'delivered again',
    detail: { name: to.name, email: to.email, role: to.label },
  })
}
