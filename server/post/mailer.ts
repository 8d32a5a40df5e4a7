import { createHash } from 'node:crypto'
import ical, { ICalCalendarMethod } from 'ical-generator'
import nodemailer, { type SendMailOptions, type Transporter } from 'nodemailer'
import { hostOf } from '#core/organisation/organisation.ts'
import { documentHtml, documentText, escape, pictureId } from './document-mail.ts'
import type { MailBody } from '#server/db/schema.ts'
import type { Settings } from '#server/ground/settings.ts'

/** A mail as it is handed to the mail server. */
export interface Letter {
  readonly from: { readonly name: string; readonly address: string }
  readonly key: string
  readonly to: string
  readonly subject: string
  readonly body: MailBody
  readonly attachment: { readonly name: string; readonly bytes: Uint8Array } | null
  /** Files that go along, of any kind. */
  readonly extra: readonly { readonly name: string; readonly bytes: Uint8Array }[]
  /** Pictures of the text, by their SHA-256. */
  readonly pictures: readonly { readonly name: string; readonly bytes: Uint8Array }[]
  /** What tells this mail among those that come back (RFC 5321, 3.6.3: to the address of the envelope). */
  readonly returnToken: string | null
  /** Agreement number, shown in the foot. */
  readonly reference: string | null
}

type Attachment = NonNullable<SendMailOptions['attachments']>[number]

const transports = new Map<string, Transporter>()

function transport(url: string): Transporter {
  const made =
    transports.get(url) ?? nodemailer.createTransport({ url, pool: true, maxConnections: 2 } as never)
  transports.set(url, made)
  return made
}

/** The day as an entry for calendars (RFC 5545), lasting the whole day, wherever the reader is. */
function calendarFile({ id, day, title }: NonNullable<MailBody['calendar']>, host: string): string {
  const file = ical({ prodId: '//Brevan//EN', method: ICalCalendarMethod.PUBLISH })
  file.createEvent({
    id: `${id}@${host}`,
    start: new Date(`${day}T00:00:00Z`),
    allDay: true,
    timezone: null,
    summary: title,
  })
  return file.toString()
}

/** Sends over SMTP (RFC 5321); resolves once the server has accepted the message. */
export async function sendMail(settings: Settings, letter: Letter): Promise<void> {
  await transport(settings.smtpUrl).sendMail({
    from: { ...letter.from },
    to: letter.to,
    ...(letter.returnToken
      ? {
          envelope: {
            from: returnAddress(letter.returnToken, hostOf(letter.from.address)),
            to: letter.to,
          },
        }
      : {}),
    subject: letter.subject,
    messageId: `<${createHash('sha256').update(letter.key).digest('hex').slice(0, 40)}@${hostOf(letter.from.address)}>`,
    text: asText(letter),
    html: asHtml(letter),
    attachments: [
      ...(letter.attachment ? [{ ...letter.attachment, contentType: 'application/pdf' }] : []),
      ...letter.extra.map((each) => ({ ...each, contentType: 'application/octet-stream' })),
      ...(letter.body.calendar
        ? [
            {
              name: 'sign-by.ics',
              bytes: Buffer.from(calendarFile(letter.body.calendar, hostOf(letter.from.address))),
              contentType: 'text/calendar; charset=utf-8; method=PUBLISH',
            },
          ]
        : []),
    ]
      .map(({ name, bytes, contentType }): Attachment => ({
        filename: name,
        content: Buffer.from(bytes),
        contentType,
      }))
      .concat(
        letter.pictures.map(({ name, bytes }) => ({
          filename: name.slice(0, 12),
          content: Buffer.from(bytes),
          cid: pictureId(name),
          contentDisposition: 'inline',
        })),
      ),
    headers: { 'Auto-Submitted': 'auto-generated' },
  })
}

const RETURNED = 'returned+'

const returnAddress = (token: string, host: string) => `${RETURNED}${token}@${host}`

/** The token in an address that mail comes back to; null: it is another address. */
export const returnedToken = (address: string): string | null =>
  /^returned\+([0-9a-f]{32})@/i.exec(address)?.[1]?.toLowerCase() ?? null

/** Writes to the sender of a mail that it could not be delivered (RFC 3464); from nobody, so that nothing comes back of it. */
export async function sendReport(
  settings: Settings,
  { from, to }: { readonly from: string; readonly to: string },
): Promise<void> {
  const host = hostOf(to)
  const report = [
    `Reporting-MTA: dns; ${host}`,
    '',
    `Final-Recipient: rfc822; ${to}`,
    'Action: failed',
    'Status: 5.1.2',
    `Diagnostic-Code: smtp; 550 5.1.2 There is no host ${host}`,
    '',
  ].join('\r\n')
  await transport(settings.smtpUrl).sendMail({
    envelope: { from: '', to: from },
    from: `postmaster@${host}`,
    to: from,
    subject: 'Undelivered mail returned to sender',
    text: `The mail to ${to} could not be delivered: there is no host ${host}.`,
    attachments: [{ content: report, contentType: 'message/delivery-status', contentDisposition: 'inline' }],
    headers: { 'Auto-Submitted': 'auto-replied' },
  })
}

/** Closes the connections to mail servers. */
export function closeMailer(): void {
  for (const made of transports.values()) made.close()
  transports.clear()
}

const asText = ({ body, reference }: Letter) =>
  [
    body.greeting,
    ...body.paragraphs,
    body.document && documentText(body.document),
    body.link ? `${body.link.label}: ${body.link.url}` : null,
    body.link?.keep,
    body.foot ?? (reference && `Agreement ${reference}`),
  ]
    .filter(Boolean)
    .join('\n\n')

const foot = (body: MailBody, reference: string | null) => {
  const said = body.foot ?? (reference && `Agreement ${reference}`)
  return said
    ? `<p style="border-top:1px solid #DDD8CE;padding-top:12px;color:#6B665C;font-size:13px">${escape(said)}</p>`
    : ''
}

const asHtml = ({
  body,
  reference,
}: Letter) => `<!doctype html><html lang="${escape(body.language ?? 'en')}" dir="auto"><body style="margin:0;background:#FAF8F4;color:#20242B;font:16px/1.5 'Source Sans 3',system-ui,sans-serif">
<div style="max-width:34rem;margin:0 auto;padding:32px 24px">
${body.greeting ? `<p>${escape(body.greeting)}</p>` : ''}
${body.paragraphs.map((paragraph) => `<p>${escape(paragraph)}</p>`).join('\n')}
${body.document ? documentHtml(body.document) : ''}
${body.link ? `<p style="margin:28px 0"><a href="${escape(body.link.url)}" style="background:#155E6B;color:#fff;padding:10px 18px;text-decoration:none">${escape(body.link.label)}</a></p>${body.link.keep ? `<p style="color:#6B665C;font-size:13px">${escape(body.link.keep)}</p>` : ''}` : ''}
${foot(body, reference)}
</div></body></html>`
