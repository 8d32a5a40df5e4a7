import { and, asc, eq, sql } from 'drizzle-orm'
import { settingsHash } from '#core/trail/against.ts'
import type { Work } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, edition, party, person, revision, team } from '#server/db/schema.ts'
import { enqueueEmail } from './mails.ts'

type Agreement = typeof agreement.$inferSelect

/** The parties of a revision, in their order. */
export const partiesOf = (db: Db, { id, revision }: Pick<Agreement, 'id' | 'revision'>) =>
  db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, id), eq(party.revision, revision)))
    .orderBy(asc(party.order), asc(party.role))

/** The document of a revision. */
export async function documentOf(db: Db, { id, revision: number }: Pick<Agreement, 'id' | 'revision'>) {
  return one(
    await db
      .select()
      .from(revision)
      .where(and(eq(revision.agreementId, id), eq(revision.number, number))),
  )
}

/** Whoever sends an agreement; before it goes, whoever made it. `says`: in whose name, theirs or their team's. */
export async function senderOf(
  db: Db,
  { sentBy, createdBy, teamId }: Pick<Agreement, 'sentBy' | 'createdBy' | 'teamId'>,
) {
  const sender = one(
    await db
      .select({ id: person.id, name: person.name, email: person.email, team: team.name })
      .from(person)
      .leftJoin(team, teamId ? eq(team.id, teamId) : sql`false`)
      .where(eq(person.id, sentBy ?? createdBy)),
  )
  return { ...sender, says: sender.team ?? sender.name }
}

/** The language that an agreement's document is written in (BCP 47): what stands on its pages follows it, whoever reads them. */
export async function documentLanguage(
  db: Db,
  { language, editionId, content }: Pick<Agreement, 'language' | 'editionId' | 'content'>,
): Promise<string> {
  if (language ?? content?.language) return (language ?? content?.language)!
  const [made] = await db
    .select({ language: sql<string>`${edition.content}->>'language'` })
    .from(edition)
    .where(eq(edition.id, editionId))
  return made?.language ?? 'en'
}

/** What the trail keeps of how the parties take part now. */
export const settingsNow = async (db: Db, row: Pick<Agreement, 'id' | 'revision'>): Promise<string> =>
  settingsHash((await partiesOf(db, row)).map((each) => ({ role: each.role, settings: each })))

/** Writes to whoever sends an agreement, with a link to it. */
export async function tellSender(
  work: Work,
  row: Agreement,
  told: {
    readonly key: string
    readonly subject: string
    readonly paragraphs: readonly string[]
    /** What the link is called. */
    readonly link?: string
  },
): Promise<void> {
  const sender = await senderOf(work.db, row)
  await enqueueEmail(work, {
    key: told.key,
    agreementId: row.id,
    to: sender.email,
    subject: told.subject,
    body: {
      greeting: `${sender.name},`,
      paragraphs: told.paragraphs,
      link: {
        label: told.link ?? 'Open the agreement',
        url: `${work.settings.publicUrl}/agreements/${row.id}`,
      },
      attachment: null,
    },
  })
}
