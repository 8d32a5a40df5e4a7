import { createHash, timingSafeEqual } from 'node:crypto'
import { simpleParser } from 'mailparser'
import { desc, eq, ilike, or } from 'drizzle-orm'
import { SMTPServer, type SMTPServerSession } from 'smtp-server'
import { returnedToken, sendReport } from './mailer.ts'
import type { Text } from './texter.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { receivedMail, receivedText } from '#server/db/schema.ts'
import { notFound, Refusal } from '#server/ground/problem.ts'

const LARGEST = 30 * 1024 * 1024

/**
 * The stand-in for outside mailboxes: an SMTP server on loopback that takes any message and keeps it, once per
 * Message-ID as mailboxes do. Hosts that cannot be (`.invalid`, RFC 2606) it sends a report of
 * (RFC 3464), as a server on the way does; what comes back is handed to `returned`. Beside a real mail server it takes nothing else.
 */
export async function openPostRoom(
  app: App,
  port: number,
  returned: (token: string, raw: Buffer) => Promise<void>,
): Promise<{ close(): Promise<void> }> {
  const take = async (raw: Buffer, session: SMTPServerSession): Promise<void> => {
    const recipients = session.envelope.rcptTo.map(({ address }) => address)
    const tokens = recipients.map(returnedToken)
    for (const token of tokens) if (token) await returned(token, raw)
    const kept = recipients.filter((to, i) => tokens[i] === null && !isNowhere(to))
    if (kept.length) await keep(app, raw, kept.join(', '))
    const { mailFrom } = session.envelope
    for (const to of recipients.filter(isNowhere))
      if (mailFrom && mailFrom.address) await sendReport(app.settings, { from: mailFrom.address, to })
  }
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: LARGEST,
    disableReverseLookup: true,
    onRcptTo({ address }, _session, callback) {
      if (app.settings.postRoom || returnedToken(address)) return callback()
      callback(Object.assign(new Error('No such mailbox here'), { responseCode: 550 }))
    },
    onData(stream, session, callback) {
      const chunks: Buffer[] = []
      stream.on('data', (chunk: Buffer) => chunks.push(chunk))
      stream.on('end', () => {
        if (stream.sizeExceeded)
          return callback(Object.assign(new Error('Message too large'), { responseCode: 552 }))
        take(Buffer.concat(chunks), session).then(() => callback(), callback)
      })
    },
  })
  server.on('error', (error: Error) => app.log.error({ err: error }, 'post room'))
  await new Promise<void>((resolve, reject) => {
    server.server.once('error', reject)
    server.listen(port, '127.0.0.1', () => resolve())
  })
  return { close: () => new Promise((resolve) => server.close(() => resolve())) }
}

const isNowhere = (address: string): boolean => /\.invalid>?$/i.test(address)

async function keep(app: App, raw: Buffer, to: string): Promise<void> {
  const parsed = await simpleParser(raw, { skipHtmlToText: true, skipTextToHtml: true })
  const attachments = []
  for (const { filename, contentType, content } of parsed.attachments)
    attachments.push({
      name: filename ?? 'attachment',
      mediaType: contentType,
      size: content.length,
      sha256: await app.files.put(content, contentType),
    })
  await app.db
    .insert(receivedMail)
    .values({
      messageId: parsed.messageId ?? `none-${app.now().getTime()}-${Math.random()}`,
      receivedAt: app.now(),
      from: parsed.from?.text ?? '',
      to,
      subject: parsed.subject ?? '',
      text: parsed.text ?? '',
      html: parsed.html || null,
      attachments,
    })
    .onConflictDoNothing()
}

const summary = ({ id, receivedAt, from, to, subject, read }: typeof receivedMail.$inferSelect) => ({
  id,
  receivedAt: receivedAt.toISOString(),
  from,
  to,
  subject,
  read,
})

/** Mails that came to the stand-in, the newest first. */
export async function listReceived(app: App, by: Person, search = '') {
  await requireMay(app, by, 'post room')
  const like = `%${search.replace(/[\\%_]/g, '\\$&')}%`
  const found = await app.db
    .select()
    .from(receivedMail)
    .where(search ? or(ilike(receivedMail.to, like), ilike(receivedMail.subject, like)) : undefined)
    .orderBy(desc(receivedMail.id))
    .limit(500)
  return found.map(summary)
}

/** One of them. Refused where there is none. */
export async function readReceived(app: App, by: Person, id: number) {
  await requireMay(app, by, 'post room')
  const [found] = await app.db
    .update(receivedMail)
    .set({ read: true })
    .where(eq(receivedMail.id, id))
    .returning()
  if (!found) throw notFound('mail')
  return { ...summary(found), text: found.text, html: found.html, attachments: [...found.attachments] }
}

/** An attachment of one, by its place from 0. */
export async function receivedAttachment(app: App, by: Person, id: number, index: number) {
  const found = (await readReceived(app, by, id)).attachments[index]
  if (!found) throw notFound('attachment')
  return { ...found, bytes: await app.files.get(found.sha256) }
}

/** Takes a text as a gateway does: once per reference, and from whoever has the token. */
export async function receiveText(app: App, token: string | undefined, text: Text): Promise<void> {
  const { texts } = app.settings
  const told = createHash('sha256')
    .update(token ?? '')
    .digest()
  if (
    !texts.postRoom ||
    !timingSafeEqual(told, createHash('sha256').update(`Bearer ${texts.token}`).digest())
  )
    throw new Refusal(401, 'Not known', 'This gateway does not know you.')
  await app.db
    .insert(receivedText)
    .values({ ...text, receivedAt: app.now() })
    .onConflictDoNothing()
}

/** Texts that came to the stand-in, the newest first. */
export async function listTexts(app: App, by: Person, search = '') {
  await requireMay(app, by, 'post room')
  const like = `%${search.replace(/[\\%_]/g, '\\$&')}%`
  const found = await app.db
    .select()
    .from(receivedText)
    .where(search ? or(ilike(receivedText.to, like), ilike(receivedText.text, like)) : undefined)
    .orderBy(desc(receivedText.id))
    .limit(200)
  return found.map(({ id, receivedAt, to, text }) => ({ id, receivedAt: receivedAt.toISOString(), to, text }))
}
