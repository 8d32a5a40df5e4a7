import { sql } from 'drizzle-orm'
import { boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import type { Filled } from '#core/agreement/filled.ts'
import { LINK_ENDS, type LinkEnd } from '#core/ceremony/gates.ts'
import type { Check } from '#core/ceremony/parties.ts'
import { instant, oneOf } from './columns.ts'
import { file } from './files.ts'
import { person } from './people.ts'
import { agreement, party } from './agreements.ts'

/**
 * Every link that a party was ever sent: the SHA-256 of its token, which itself stands in the mail only. Each reminder has one of
 * its own; all of a party's hold until they are ended.
 */
export const link = pgTable(
  'link',
  {
    tokenHash: text('token_hash').primaryKey(),
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    madeAt: instant('made_at').notNull(),
    /** Handed over at one device, by a person who is signed in there: their name. */
    atDeviceOf: text('at_device_of'),
    /** Given on the page of an intake form, to whoever filled it. */
    fromForm: boolean('from_form').notNull().default(false),
    endedAt: instant('ended_at'),
    ended: text('ended').$type<LinkEnd>(),
  },
  (t) => [
    index('link_by_party').on(t.partyId),
    check('link_end', oneOf(t.ended, LINK_ENDS)),
    check('link_ended', sql`(${t.ended} is null) = (${t.endedAt} is null)`),
  ],
)

/** A code for one use that was sent to a party: the newest counts. */
export const sentCode = pgTable(
  'sent_code',
  {
    id: uuid('id').primaryKey(),
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    hash: text('hash').notNull(),
    sentAt: instant('sent_at').notNull(),
    usedAt: instant('used_at'),
  },
  (t) => [index('sent_code_by_party').on(t.partyId, t.sentAt)],
)

/** That a visitor has shown what a party's check asks for: kept with their browser as a cookie, whose SHA-256 this is. */
export const shownProof = pgTable(
  'shown_proof',
  {
    tokenHash: text('token_hash').primaryKey(),
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    check: text('check').notNull().$type<Check>(),
    at: instant('at').notNull(),
    expiresAt: instant('expires_at').notNull(),
    address: text('address').notNull(),
  },
  (t) => [index('shown_proof_by_party').on(t.partyId)],
)

/** A party's question beside a passage, and the sender's answer; both stay with the agreement. */
export const partyQuestion = pgTable(
  'party_question',
  {
    id: uuid('id').primaryKey(),
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    /** The words it is about, as they stand in the document; empty: the whole. */
    passage: text('passage').notNull().default(''),
    text: text('text').notNull(),
    askedAt: instant('asked_at').notNull(),
    answer: text('answer'),
    answeredBy: uuid('answered_by').references(() => person.id),
    answeredAt: instant('answered_at'),
  },
  (t) => [index('party_question_by_agreement').on(t.agreementId)],
)

/** What a party filled in. */
export const blankValue = pgTable(
  'blank_value',
  {
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    blankId: text('blank_id').notNull(),
    value: jsonb('value').notNull().$type<Filled>(),
    filledAt: instant('filled_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.partyId, t.blankId] })],
)

/** Files that a signer has handed in: theirs alone to fill a blank with. */
export const handedFile = pgTable(
  'handed_file',
  {
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    sha256: text('sha256')
      .notNull()
      .references(() => file.sha256),
    name: text('name').notNull(),
    size: integer('size').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.partyId, t.sha256] })],
)

/** A page that came back from paper, known by its code: the newest picture of it counts. */
export const paperPage = pgTable(
  'paper_page',
  {
    partyId: uuid('party_id')
      .notNull()
      .references(() => party.id),
    page: integer('page').notNull(),
    sha256: text('sha256')
      .notNull()
      .references(() => file.sha256),
    addedBy: uuid('added_by')
      .notNull()
      .references(() => person.id),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.partyId, t.page] })],
)

/** Words to send with, kept for the next time: patterns over the fields of whatever is sent. */
export const savedMessage = pgTable('saved_message', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull().unique(),
  subject: text('subject').notNull(),
  message: text('message').notNull(),
  changedBy: uuid('changed_by')
    .notNull()
    .references(() => person.id),
  changedAt: instant('changed_at').notNull(),
})
