import { eq } from 'drizzle-orm'
import { hasToAct } from '#core/ceremony/parties.ts'
import { evidenceOf, type EvidenceParty, type SignedParty } from '#core/evidence/evidence.ts'
import { describeEvidence } from '#core/evidence/describe.ts'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'
import { valuesHash } from '#core/trail/against.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { agreement, blankValue, edition } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import { sealMeans } from './seal-keys.ts'
import type { SealRequest } from '#server/seal/seal.ts'
import { transitionAgreement } from '#server/services/agreements/agreements.ts'
import { present } from '#server/services/agreements/document-now.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { happened, readTrail } from '#server/services/agreements/trail.ts'

/**
 * Job: stamps, adds the evidence, seals, and mails the executed file to everyone. What takes long is done in a thread, and under no
 * lock: once everyone has signed nothing of it can change. The file then counts by one short transaction, which a second run of the
 * job finds done; a run that ended in between leaves nothing behind that counts.
 */
export async function executeAgreement(app: App, agreementId: string): Promise<void> {
  const request = await sealRequest(app, agreementId)
  if (!request) return
  const sealed = await app.pages.seal(request)
  const stored = await app.files.store([sealed], 'application/pdf')
  const executedSha256 = stored[0]!.sha256
  await transaction(app, async (work) => {
    const { db } = work
    const [locked] = await db
      .select({ state: agreement.state })
      .from(agreement)
      .where(eq(agreement.id, agreementId))
      .for('update')
    if (locked?.state !== 'out') return
    await work.files.record(stored)
    await db.update(agreement).set({ executedSha256, lookAt: null }).where(eq(agreement.id, agreementId))
    await transitionAgreement(work, agreementId, 'execute')
    await happened(work, agreementId, null, { act: 'executed', detail: { file: executedSha256 } })
  })
}

/** All that the sealed file is made of; null where not everyone has signed, or it is sealed. */
async function sealRequest(app: App, agreementId: string): Promise<SealRequest | null> {
  const { db } = app
  const organisation = await organisationOf(db)
  const { row, document, parties, stamps } = await present(app, db, agreementId)
  const acting = parties.filter(hasToAct)
  if (row.state !== 'out' || acting.some(({ signedAt }) => !signedAt)) return null
  const at = app.now()
  const { entries } = await readTrail(db, agreementId)
  const made = one(
    await db.select({ content: edition.content }).from(edition).where(eq(edition.id, row.editionId)),
  )
  const signed: SignedParty[] = []
  for (const each of acting) {
    const values = await db.select().from(blankValue).where(eq(blankValue.partyId, each.id))
    signed.push({
      ...each,
      consentedAt: each.paper ? null : each.consentedAt!,
      signedAt: each.signedAt!,
      address: each.address ?? '',
      signature: each.paper ? 'paper' : manner(stamps, each.role),
      values: valuesHash(values),
    })
  }
  const means = await sealMeans(app, organisation.name)
  const evidence = evidenceOf(
    {
      agreement: {
        id: agreementId,
        number: row.number,
        name: row.name,
        title: made.content.title,
        revision: row.revision,
      },
      organisation: { name: organisation.name, place: organisation.place },
      document: { sha256: document.fileSha256, pages: document.pages },
      seal: { at: at.toISOString(), ownTime: means.time.own },
      verify: { url: `${app.settings.publicUrl}/verify`, code: agreementId },
    },
    signed,
    entries,
  )
  const shown = await app.files.get(document.fileSha256)
  const scans = []
  for (const { paper, name } of acting)
    if (paper) scans.push({ pdf: await app.files.get(paper.sha256), title: `On paper: ${name}` })
  return {
    // What was signed on paper stands behind the document, before the evidence.
    pdf: scans.length ? await app.pages.combine([{ pdf: shown, title: row.name }, ...scans], at) : shown,
    stamps,
    evidence,
    pages: describeEvidence(evidence, speaks(languageOf(row.language, languageOf(organisation.language)))),
    means,
    by: { name: organisation.name, location: organisation.place, contact: organisation.sender },
    reason: `Executed: ${row.name}`,
    at,
  }
}

function manner(stamps: readonly Stamp[], role: string): EvidenceParty['signature'] {
  const kind = stamps.find(({ blank }) => blank.role === role && blank.kind === 'signature')?.value.kind
  return kind === 'drawn' || kind === 'typed' || kind === 'picture' ? kind : 'none'
}
