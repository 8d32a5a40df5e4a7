import { bigint, boolean, index, jsonb, pgTable, text, uuid } from 'drizzle-orm/pg-core'
import { instant } from './columns.ts'
import { agreement } from './agreements.ts'
import type { ExtraFile } from './files.ts'

// Mails to send, and what the stand-in for outside mailboxes has received.

export interface MailBody {
  readonly greeting: string
  readonly paragraphs: readonly string[]
  readonly link: { readonly label: string; readonly url: string } | null
  readonly attachment: { readonly name: string; readonly sha256: string } | null
  /** Files that go along. */
  readonly extra?: readonly ExtraFile[] | undefined
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
    problem: text('problem'),
  },
  (t) => [index('mail_by_agreement').on(t.agreementId)],
)

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
