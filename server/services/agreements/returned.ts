import { eq } from 'drizzle-orm'
import { simpleParser } from 'mailparser'
import { returnedOf } from '#core/ceremony/returned.ts'
import type { App } from '#server/app/app.ts'
import { mail } from '#server/db/schema.ts'
import { undeliverable } from './delivering.ts'

/** Bytes of a report that is read; what comes back whole with its attachments is larger, and its report stands first. */
const LARGEST = 512 * 1024

/** Takes in a mail that came back to the address of one that was sent; anything but a report of failure (RFC 3464) is let go. */
export async function takeReturned(app: App, token: string, raw: Buffer): Promise<void> {
  const [sent] = await app.db.select({ key: mail.key }).from(mail).where(eq(mail.returnToken, token))
  if (!sent) return
  const { attachments } = await simpleParser(raw.subarray(0, LARGEST), {
    skipHtmlToText: true,
    skipTextToHtml: true,
    keepDeliveryStatus: true,
  })
  const report = attachments.find(({ contentType }) => contentType === 'message/delivery-status')
  const returned = report && returnedOf(report.content.toString('utf8'))
  if (returned) await undeliverable(app, sent.key, returned.problem)
}
