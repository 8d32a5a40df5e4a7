import { and, eq } from 'drizzle-orm'
import { isEmail } from '#core/outline/coerce.ts'
import { fillBundle } from '#core/packet/bundle.ts'
import type { Act, ActName, ActOf } from '#core/trail/acts.ts'
import type { App } from '#server/app/app.ts'
import { agreement, edition, party, person } from '#server/db/schema.ts'
import type { Work } from '#server/app/transaction.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { post } from './mails.ts'

type Agreement = typeof agreement.$inferSelect
type Notice<N extends ActName> = (app: App, work: Work, row: Agreement, act: ActOf<N>) => Promise<void>

/** Who hears of an act by mail; the links that signers get are not among them, for an act holds no secret. */
const NOTICES: { readonly [N in ActName]?: Notice<N> } = {
  declined: tellSender,
  executed: tellEveryone,
}

/** Tells whoever is to hear of an act, once the transaction commits. */
export async function notify(app: App, work: Work, agreementId: string, act: Act): Promise<void> {
  const tell = NOTICES[act.act] as Notice<ActName> | undefined
  if (!tell) return
  const [row] = await work.db.select().from(agreement).where(eq(agreement.id, agreementId))
  await tell(app, work, row!, act)
}

const partiesOf = ({ db }: Work, { id, revision }: Agreement) =>
  db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, id), eq(party.revision, revision)))

async function senderOf({ db }: Work, { createdBy }: Agreement) {
  const [sender] = await db.select().from(person).where(eq(person.id, createdBy))
  return sender!
}

async function tellSender(
  app: App,
  work: Work,
  row: Agreement,
  { detail: { role, reason } }: ActOf<'declined'>,
): Promise<void> {
  const sender = await senderOf(work, row)
  const refused = (await partiesOf(work, row)).find(({ label }) => label === role)!
  await post(app, work, {
    key: `declined:${refused.id}`,
    agreementId: row.id,
    to: sender.email,
    subject: `Declined: ${row.name}`,
    body: {
      greeting: `${sender.name},`,
      paragraphs: [`${refused.name} has refused to sign ${row.name}.`, `The reason given: ${reason}`],
      link: { label: 'Open the agreement', url: `${app.settings.publicUrl}/agreements/${row.id}` },
      attachment: null,
    },
  })
}

/** The executed file to the parties, the sender and whoever gets a copy, each once. */
async function tellEveryone(
  app: App,
  work: Work,
  row: Agreement,
  { detail: { file } }: ActOf<'executed'>,
): Promise<void> {
  const sender = await senderOf(work, row)
  const bundle = await bundleOf(app, row)
  const [made] = await work.db
    .select({ content: edition.content })
    .from(edition)
    .where(eq(edition.id, row.editionId))
  const copies = [
    ...(made!.content.sending.copies ?? []).map((pattern) =>
      fillBundle(bundle, row.data, pattern, row.number),
    ),
    ...row.copies,
  ].filter(isEmail)
  const readers = [
    ...(await partiesOf(work, row)).map(({ name, email }) => ({ name, email })),
    { name: sender.name, email: sender.email },
    ...copies.map((email) => ({ name: email, email })),
  ]
  for (const reader of new Map(readers.map((each) => [each.email, each])).values())
    await post(app, work, {
      key: `executed:${row.id}:${reader.email}`,
      agreementId: row.id,
      to: reader.email,
      subject: `Signed by everyone: ${row.name}`,
      body: {
        greeting: `${reader.name},`,
        paragraphs: [
          `${row.name} is signed by everyone and sealed. The executed document is attached; its last pages tell who did what and when.`,
        ],
        link: null,
        attachment: { name: `${row.fileName}.pdf`, sha256: file },
        extra: row.extra,
      },
    })
}
