import { createHash } from 'node:crypto'
import ical, { ICalCalendarMethod } from 'ical-generator'
import nodemailer from 'nodemailer'
import type { Transporter } from 'nodemailer'
import { hostOf } from '#core/organisation/organisation.ts'
import type { MailBody } from '#server/db/schema.ts'
import type { Settings } from '#server/ground/settings.ts'

export interface Letter {
  readonly from: { readonly name: string; readonly address: string }
  readonly key: string
  readonly to: string
  readonly subject: string
  readonly body: MailBody
  readonly attachment: { readonly name: string; readonly bytes: Uint8Array } | null
  /** Files that go along, of any kind. */
  readonly extra: readonly { readonly name: string; readonly bytes: Uint8Array }[]
  /** Agreement number, shown in the foot. */
  readonly reference: string | null
}

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

const escape = (text: string) => text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`)

/** Sends over SMTP (RFC 5321); resolves once the server has accepted the message. */
export async function sendMail(settings: Settings, letter: Letter): Promise<void> {
  await transport(settings.smtpUrl).sendMail({
    from: { ...letter.from },
    to: letter.to,
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
    ].map(({ name, bytes, contentType }) => ({ filename: name, content: Buffer.from(bytes), contentType })),
    headers: { 'Auto-Submitted': 'auto-generated' },
  })
}

export function closeMailer(): void {
  for (const made of transports.values()) made.close()
  transports.clear()
}

const asText = ({ body, reference }: Letter) =>
  [
    body.greeting,
    ...body.paragraphs,
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
<p>${escape(body.greeting)}</p>
${body.paragraphs.map((paragraph) => `<p>${escape(paragraph)}</p>`).join('\n')}
${body.link ? `<p style="margin:28px 0"><a href="${escape(body.link.url)}" style="background:#155E6B;color:#fff;padding:10px 18px;text-decoration:none">${escape(body.link.label)}</a></p>${body.link.keep ? `<p style="color:#6B665C;font-size:13px">${escape(body.link.keep)}</p>` : ''}` : ''}
${foot(body, reference)}
</div></body></html>`
