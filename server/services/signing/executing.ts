import { eq } from 'drizzle-orm'
import { forParties } from '#core/trail/acts.ts'
import type { App } from '#server/app/app.ts'
import { agreement, edition } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { keyOfSeal } from '#server/seal/certificate.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import { makeMove } from '#server/services/agreements/agreements.ts'
import { present } from '#server/services/agreements/document-now.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { happened, readTrail } from '#server/services/agreements/trail.ts'

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
    const { row, document, parties, stamps } = await present(app, db, agreementId)
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
