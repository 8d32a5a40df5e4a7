import { and, asc, eq } from 'drizzle-orm'
import { forParties } from '#core/trail/acts.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, blankValue, edition, party, revision } from '#server/db/schema.ts'
import type { BlankValue } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { notFound } from '#server/ground/problem.ts'
import { keyOfSeal } from '#server/seal/certificate.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import { makeMove } from './agreements.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { longDate } from './sending.ts'
import { happened, readTrail } from './trail.ts'

/** The present revision's document and all that has been filled in on it by those who have signed. */
async function present(db: Db, agreementId: string) {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId))
  if (!row) throw notFound('agreement')
  const [document] = await db
    .select()
    .from(revision)
    .where(and(eq(revision.agreementId, agreementId), eq(revision.number, row.revision)))
  const parties = await db
    .select()
    .from(party)
    .where(and(eq(party.agreementId, agreementId), eq(party.revision, row.revision)))
    .orderBy(asc(party.order))
  const values = await db
    .select({ value: blankValue })
    .from(blankValue)
    .innerJoin(party, eq(party.id, blankValue.partyId))
    .where(and(eq(party.agreementId, agreementId), eq(party.revision, row.revision)))
  const stamps: Stamp[] = []
  for (const signer of parties) {
    if (!signer.signedAt) continue
    for (const blank of document!.blanks.filter(({ role }) => role === signer.role)) {
      const filled = values.find(({ value }) => value.partyId === signer.id && value.blankId === blank.id)
        ?.value.value
      const value: BlankValue | undefined =
        blank.kind === 'date'
          ? { kind: 'text', text: longDate(signer.signedAt) }
          : (filled ?? (blank.rules?.preset ? { kind: 'text', text: blank.rules.preset } : undefined))
      if (value) stamps.push({ blank, value })
    }
  }
  return { row, document: document!, parties, stamps }
}

/** The document as it stands: sealed once executed, before that with what those have filled in who signed. */
export async function documentNow(
  app: App,
  agreementId: string,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { row, document, stamps } = await present(app.db, agreementId)
  const fileName = `${row.fileName}.pdf`
  if (row.executedSha256) return { bytes: await app.files.get(row.executedSha256), fileName }
  return {
    bytes: await app.pages.stamp(await app.files.get(document.fileSha256), stamps, app.now()),
    fileName,
  }
}

/**
 * Job: stamps, adds the evidence pages, seals, and mails the executed file to everyone. Everything that counts happens
 * in one transaction under the agreement's lock, so a second run of the job finds it executed and does nothing.
 */
export async function executeAgreement(app: App, agreementId: string): Promise<void> {
  const organisation = await organisationOf(app.db)
  const key = await keyOfSeal(app, organisation.name)
  await transaction(app, async (work) => {
    const { db } = work
    const [locked] = await db
      .select({ state: agreement.state })
      .from(agreement)
      .where(eq(agreement.id, agreementId))
      .for('update')
    if (locked?.state !== 'out') return
    const { row, document, parties, stamps } = await present(db, agreementId)
    const at = app.now()
    const { entries } = await readTrail(db, agreementId)
    const [content] = await db
      .select({ content: edition.content })
      .from(edition)
      .where(eq(edition.id, row.editionId))
    const sealed = await app.pages.seal({
      by: { name: organisation.name, location: organisation.place, contact: organisation.sender },
      pdf: await app.files.get(document.fileSha256),
      stamps,
      evidence: {
        title: content!.content.title,
        number: row.number,
        name: row.name,
        agreement: agreementId,
        revision: row.revision,
        documentHash: document.fileSha256,
        trail: { entries: entries.length, head: entries.at(-1)!.hash },
        parties: parties.map(({ role, label, name, email, title, consentedAt, signedAt, address }) => ({
          label,
          name,
          email,
          title,
          consentedAt: consentedAt!.toISOString(),
          signedAt: signedAt!.toISOString(),
          address: address ?? '',
          signature: manner(stamps, role),
        })),
        entries: forParties(entries),
      },
      key,
      reason: `Executed: ${row.name}`,
      at,
    })
    const executedSha256 = await app.files.put(db, sealed, 'application/pdf', at)
    await db.update(agreement).set({ executedSha256 }).where(eq(agreement.id, agreementId))
    await makeMove(app, db, agreementId, 'execute')
    await happened(app, work, agreementId, null, { act: 'executed', detail: { file: executedSha256 } })
  })
}

function manner(stamps: readonly Stamp[], role: string): string {
  const kind = stamps.find(({ blank }) => blank.role === role && blank.kind === 'signature')?.value.kind
  return kind === 'drawn'
    ? 'signature drawn by hand'
    : kind === 'typed'
      ? 'signature typed'
      : 'no signature blank'
}
