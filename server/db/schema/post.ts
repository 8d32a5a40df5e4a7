import { sql } from 'drizzle-orm'
import { bigint, boolean, index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core'
import { instant } from './columns.ts'
import { agreement, party } from './agreements.ts'
import type { ReadingDocument } from '#core/ceremony/reading.ts'
import type { ExtraFile } from './files.ts'

// Mails to send, and what the stand-in for outside mailboxes has received.

/** A mail’s text in parts, from which it is set as text and as HTML. */
export interface MailBody {
  readonly greeting: string
  readonly paragraphs: readonly string[]
  /** `keep`: why it is to be kept to oneself, where whoever has it can act in the reader’s name. */
  readonly link: { readonly label: string; readonly url: string; readonly keep?: string } | null
  readonly attachment: { readonly name: string; readonly sha256: string } | null
  /** The mail's own text is a document; its pictures go along. */
  readonly document?: readonly ReadingDocument[] | undefined
  /** Files that go along. */
  readonly extra?: readonly ExtraFile[] | undefined
  /** BCP 47 tag of what is said; English where none is named. */
  readonly language?: string | undefined
  /** The last line, in small; none: the agreement’s number. */
  readonly foot?: string | undefined
  /** A day to put into one’s calendar (RFC 5545); `day`: ISO 8601, `id`: the same day again replaces it. */
  readonly calendar?: { readonly id: string; readonly day: string; readonly title: string } | undefined
}

/** Mails to send. `key` names the occasion, so the same occasion never makes two. */
export const mail = pgTable(
  'mail',
  {
    key: text('key').primaryKey(),
    agreementId: uuid('agreement_id').references(() => agreement.id),
    to: text('to').notNull(),
    subject: text('subject').notNull(),
    /** Emptied once sent: it may hold a signing link. */
    body: jsonb('body').$type<MailBody>(),
    createdAt: instant('created_at').notNull(),
    sentAt: instant('sent_at'),
    /** Why it did not go: as the server that was to take it said. */
    problem: text('problem'),
    /** Refused for good (a reply of the 500s, RFC 5321 4.2.1), or sent back later (RFC 3464); it is not tried again. */
    undeliverableAt: instant('undeliverable_at'),
    /** The party it is for, whose address it was then. */
    partyId: uuid('party_id').references(() => party.id),
    /** In the address that it comes back to where it reaches nobody; old mails have none. */
    returnToken: text('return_token').unique(),
  },
  (t) => [
    index('mail_by_agreement').on(t.agreementId),
    index('mail_undeliverable')
      .on(t.undeliverableAt)
      .where(sql`${t.undeliverableAt} is not null`),
  ],
)

/** Texts to send to telephones. `key` names the occasion, as with mails. */
export const textMessage = pgTable('text_message', {
  key: text('key').primaryKey(),
  agreementId: uuid('agreement_id').references(() => agreement.id),
  /** ITU-T E.164. */
  to: text('to').notNull(),
  /** Emptied once sent: it may hold a code. */
  text: text('text'),
  createdAt: instant('created_at').notNull(),
  sentAt: instant('sent_at'),
  problem: text('problem'),
})

/** What the stand-in for telephones has received. */
export const receivedText = pgTable('received_text', {
  id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
  reference: text('reference').notNull().unique(),
  receivedAt: instant('received_at').notNull(),
  to: text('to').notNull(),
  text: text('text').notNull(),
})

/** What the stand-in for outside mailboxes has received. */
export const receivedMail = pgTable(
  'received_mail',
  {
    id: bigint('id', { mode: 'number' }).primaryKey().generatedAlwaysAsIdentity(),
    messageId: text('message_id').notNull().unique(),
    receivedAt: instant('received_at').notNull(),
    from: text('from').notNull(),
    to: text('to').notNull(),
    subject: text('subject').notNull(),
    text: text('text').notNull(),
    html: text('html'),
    attachments: jsonb('attachments')
      .notNull()
      .$type<readonly { name: string; mediaType: string; size: number; sha256: string }[]>(),
    read: boolean('read').notNull().default(false),
  },
  (t) => [index('received_mail_by_time').on(t.receivedAt)],
)
