import { and, eq, isNull, sql } from 'drizzle-orm'
import { cut } from '#core/text/cut.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { agreement, type ExtraFile, mail } from '#server/db/schema.ts'
import { picturesOf } from '#server/post/document-mail.ts'
import { sendMail } from '#server/post/mailer.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { happened } from './trail.ts'

/**
 * Job: sends one mail. Its Message-ID comes from its key, so that a mail handed over twice (a crash between the server's
 * "accepted" and our note of it) is one message to its reader.
 */
export async function deliverMail(app: App, key: string): Promise<void> {
  const [found] = await app.db.select().from(mail).where(eq(mail.key, key))
  if (!found || found.sentAt || !found.body) return
  const [concerns] = found.agreementId
    ? await app.db
        .select({ number: agreement.number })
        .from(agreement)
        .where(eq(agreement.id, found.agreementId))
    : []
  const { attachment, extra = [] } = found.body
  const read = async ({ name, sha256 }: ExtraFile) => ({ name, bytes: await app.files.get(sha256) })
  try {
    const { name, sender } = await organisationOf(app.db)
    await sendMail(app.settings, {
      from: { name, address: sender },
      key,
      to: found.to,
      subject: found.subject,
      body: found.body,
      attachment: attachment && (await read(attachment)),
      extra: await Promise.all(extra.map(read)),
      returnToken: found.returnToken,
      pictures: await Promise.all(
        picturesOf(found.body.document ?? []).map((sha256) => read({ name: sha256, sha256 })),
      ),
      reference: concerns?.number ?? null,
    })
  } catch (error) {
    const problem = error instanceof Error ? error.message : String(error)
    if (isForGood(error)) return undeliverable(app, key, problem)
    await app.db.update(mail).set({ problem }).where(eq(mail.key, key))
    throw error
  }
  await app.db
    .update(mail)
    .set({
      sentAt: app.now(),
      body: null,
      // It may have come back before the server's word that it was taken did.
      problem: sql`case when ${mail.undeliverableAt} is null then null else ${mail.problem} end`,
    })
    .where(eq(mail.key, key))
}

/** A reply of the 500s: trying again changes nothing (RFC 5321, 4.2.1). */
const isForGood = (error: unknown): boolean => {
  const code = (error as { readonly responseCode?: unknown }).responseCode
  return typeof code === 'number' && code >= 500 && code < 600
}

/** Notes that a mail reached nobody; of an agreement, its trail and whoever sends it are told. Its text is kept no longer. */
export async function undeliverable(app: App, key: string, problem: string): Promise<void> {
  await transaction(app, async (work) => {
    const [lost] = await work.db
      .update(mail)
      .set({ undeliverableAt: work.now(), problem, body: null })
      .where(and(eq(mail.key, key), isNull(mail.undeliverableAt)))
      .returning()
    if (lost?.agreementId)
      await happened(work, lost.agreementId, null, {
        act: 'mail undeliverable',
        detail: { to: lost.to, subject: lost.subject, problem: cut(problem, 300) },
      })
  })
}
