import { and, eq } from 'drizzle-orm'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import type { App } from '#server/app/app.ts'
import type { Speaker } from '#core/languages/speak.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, blankValue, party, revision } from '#server/db/schema.ts'
import type { Filled } from '#core/agreement/filled.ts'
import { notFound } from '#server/ground/problem.ts'
import { documentLanguage, documentOf, partiesOf } from './parties.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

/** The present revision's document and all that has been filled in on it by those who have signed. */
export async function present(app: Pick<App, 'files'>, db: Db, agreementId: string) {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId))
  if (!row) throw notFound('agreement')
  const document = await documentOf(db, row)
  const parties = await partiesOf(db, row)
  const values = await db
    .select({ value: blankValue })
    .from(blankValue)
    .innerJoin(party, eq(party.id, blankValue.partyId))
    .where(and(eq(party.agreementId, agreementId), eq(party.revision, row.revision)))
  const { timeZone } = await organisationOf(db)
  // What stands on the pages is in their language, whatever language a party is spoken to in.
  const speaker = speaks(languageOf(await documentLanguage(db, row)))
  const stamps: Stamp[] = []
  for (const signer of parties) {
    if (!signer.signedAt) continue
    if (signer.paper) {
      stamps.push(...onPaper(document.blanks, signer, speaker, timeZone))
      continue
    }
    for (const blank of document.blanks.filter(({ role }) => role === signer.role)) {
      const filled = values.find(({ value }) => value.partyId === signer.id && value.blankId === blank.id)
        ?.value.value
      const value: Filled | undefined =
        blank.kind === 'date'
          ? {
              kind: 'text',
              text: speaker.day(signer.signedAt, timeZone),
            }
          : (filled ?? (blank.rules?.preset ? { kind: 'text', text: blank.rules.preset } : undefined))
      if (value)
        stamps.push({
          blank,
          value,
          note:
            blank.kind === 'signature'
              ? [
                  signer.name,
                  speaker.moment(signer.signedAt, timeZone),
                  speaker.say(
                    `stamp.proof.${signer.fromForm && signer.check === 'link' ? 'form' : signer.check}`,
                  ),
                ]
              : [],
          picture: value.kind === 'picture' ? await app.files.get(value.sha256) : undefined,
        })
    }
  }
  return { row, document: document, parties, stamps }
}

/** Where somebody signed on paper it says so; what they wrote stands on the pages that came back. */
const onPaper = (
  blanks: (typeof revision.$inferSelect)['blanks'],
  { role, name, signedAt }: typeof party.$inferSelect,
  { say, moment }: Speaker,
  timeZone: string,
): readonly Stamp[] =>
  blanks
    .filter((blank) => blank.role === role && blank.kind === 'signature')
    .map((blank) => ({
      blank,
      value: { kind: 'text', text: say('stamp.onPaper') },
      note: [name, moment(signedAt!, timeZone), say('stamp.proof.paper')],
    }))

/** The document as it stands: sealed once executed, before that with what those have filled in who signed. */
export async function documentNow(
  app: App,
  agreementId: string,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { row, document, stamps } = await present(app, app.db, agreementId)
  const fileName = `${row.fileName}.pdf`
  if (row.executedSha256) return { bytes: await app.files.get(row.executedSha256), fileName }
  return {
    bytes: await app.pages.stamp(await app.files.get(document.fileSha256), stamps, app.now()),
    fileName,
  }
}
