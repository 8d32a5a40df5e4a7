import { eq } from 'drizzle-orm'
import type { App } from '#server/app/app.ts'
import type { Work } from '#server/app/transaction.ts'
import { agreement, mail } from '#server/db/schema.ts'
import type { ExtraFile, MailBody } from '#server/db/schema.ts'
import { sendMail } from '#server/post/mailer.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'

export interface NewMail {
  /** Names the occasion, such as `invite:<party>`: the same occasion is written once. */
  readonly key: string
  readonly agreementId: string | null
  readonly to: string
  readonly subject: string
  readonly body: MailBody
}

/** Writes a mail to be sent once the transaction commits. */
export async function post(app: App, { db, enqueue }: Work, written: NewMail): Promise<void> {
  const [made] = await db
    .insert(mail)
    .values({ ...written, createdAt: app.now() })
    .onConflictDoNothing()
    .returning({ key: mail.key })
  if (made) await enqueue('send-mail', { key: made.key })
}

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
      reference: concerns?.number ?? null,
    })
  } catch (error) {
    await app.db
      .update(mail)
      .set({ problem: error instanceof Error ? error.message : String(error) })
      .where(eq(mail.key, key))
    throw error
  }
  await app.db.update(mail).set({ sentAt: app.now(), body: null, problem: null }).where(eq(mail.key, key))
}
