import { eq } from 'drizzle-orm'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import { isEmail } from '#core/outline/coerce.ts'
import { fillBundle } from '#core/packet/bundle.ts'
import type { Act, ActName, ActOf } from '#core/trail/acts.ts'
import type { Work } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { agreement, edition } from '#server/db/schema.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { enqueueEmail } from './mails.ts'
import { partiesOf, senderOf, tellSender } from './parties.ts'

type Agreement = typeof agreement.$inferSelect
type Notice<N extends ActName> = (work: Work, row: Agreement, act: ActOf<N>) => Promise<void>

/** Who hears of an act by mail; the links that signers get are not among them, for an act holds no secret. */
const NOTICES: { readonly [N in ActName]?: Notice<N> } = {
  declined: tellOfRefusal,
  'signature handed over': tellOfHandOver,
  'mail undeliverable': tellOfLostMail,
  executed: tellEveryone,
}

/** Tells whoever is to hear of an act, once the transaction commits. */
export async function notify(work: Work, agreementId: string, act: Act): Promise<void> {
  const tell = NOTICES[act.act] as Notice<ActName> | undefined
  if (!tell) return
  const row = one(await work.db.select().from(agreement).where(eq(agreement.id, agreementId)))
  await tell(work, row, act)
}

/** The sender with the reason, the others who were asked without it: it is between those two. */
async function tellOfRefusal(
  work: Work,
  row: Agreement,
  { detail: { role, reason } }: ActOf<'declined'>,
): Promise<void> {
  const parties = await partiesOf(work.db, row)
  const refused = parties.find(({ label, declinedAt }) => label === role && declinedAt !== null)!
  await tellSender(work, row, {
    key: `declined:${refused.id}`,
    subject: `Declined: ${row.name}`,
    paragraphs: [
      `${refused.name} has refused to sign ${row.name}.`,
      `The reason given: ${reason}`,
      'You can take it back to revise it, or leave it ended.',
    ],
  })
  const { language } = await organisationOf(work.db)
  for (const each of parties.filter(({ id, invitedAt }) => invitedAt !== null && id !== refused.id)) {
    const { say, language: spoken } = speaks(each.language ?? languageOf(language))
    await enqueueEmail(work, {
      key: `declined-others:${each.id}`,
      agreementId: row.id,
      partyId: each.id,
      to: each.email,
      subject: say('mail.declinedSubject', { title: row.name }),
      body: {
        language: spoken,
        greeting: say('mail.greeting', { name: each.name }),
        paragraphs: [say('mail.declined', { title: row.name })],
        link: null,
        attachment: null,
        foot: say('mail.number', { number: row.number }),
      },
    })
  }
}

async function tellOfHandOver(
  work: Work,
  row: Agreement,
  { detail: { role, before, name, email, reason } }: ActOf<'signature handed over'>,
): Promise<void> {
  await tellSender(work, row, {
    key: `handed-over:${row.id}:${role}:${email}:${work.now().toISOString()}`,
    subject: `Handed over: ${row.name}`,
    paragraphs: [
      `${before} has handed the signature as ${role} of ${row.name} over to ${name} (${email}).`,
      `The reason given: ${reason}`,
    ],
  })
}

/** Not where the mail that was lost was to the sender: that would go round. */
async function tellOfLostMail(
  work: Work,
  row: Agreement,
  { detail: { to, subject, problem } }: ActOf<'mail undeliverable'>,
): Promise<void> {
  const sender = await senderOf(work.db, row)
  if (sender.email === to) return
  await tellSender(work, row, {
    key: `undeliverable:${row.id}:${to}:${work.now().toISOString()}`,
    subject: `Not delivered: ${row.name}`,
    paragraphs: [
      `The mail “${subject}” to ${to} could not be delivered: ${problem}`,
      'Correct the address on the agreement; a new mail goes out at once.',
    ],
  })
}

/** The executed file to the parties, the sender and whoever gets a copy, each once. */
async function tellEveryone(
  work: Work,
  row: Agreement,
  { detail: { file } }: ActOf<'executed'>,
): Promise<void> {
  const sender = await senderOf(work.db, row)
  const bundle = await bundleOf(work, row)
  const made = one(
    await work.db.select({ content: edition.content }).from(edition).where(eq(edition.id, row.editionId)),
  )
  const copies = [
    ...(made.content.sending.copies ?? []).map((pattern) =>
      fillBundle(bundle, row.data, pattern, row.number),
    ),
    ...row.copies,
  ].filter(isEmail)
  const { language } = await organisationOf(work.db)
  const ours = languageOf(language)
  const readers = [
    ...(await partiesOf(work.db, row)).map(({ name, email, language: spoken }) => ({
      name,
      email,
      language: spoken ?? ours,
    })),
    { name: sender.name, email: sender.email, language: ours },
    ...copies.map((email) => ({ name: email, email, language: languageOf(row.language, ours) })),
  ]
  for (const reader of new Map(readers.reverse().map((each) => [each.email, each])).values()) {
    const { say, language: spoken } = speaks(reader.language)
    await enqueueEmail(work, {
      key: `executed:${row.id}:${reader.email}`,
      agreementId: row.id,
      to: reader.email,
      subject: say('mail.executedSubject', { title: row.name }),
      body: {
        language: spoken,
        greeting: say('mail.greeting', { name: reader.name }),
        paragraphs: [say('mail.executed', { title: row.name })],
        link: { label: say('mail.verify'), url: `${work.settings.publicUrl}/verify` },
        attachment: { name: `${row.fileName}.pdf`, sha256: file },
        extra: row.extra,
        foot: say('mail.number', { number: row.number }),
      },
    })
  }
}
