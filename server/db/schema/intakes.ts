import { sql } from 'drizzle-orm'
import {
  boolean,
  check,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  unique,
  uuid,
} from 'drizzle-orm/pg-core'
import type { Answers, AnswerProblem } from '#core/intake/answers.ts'
import type { IntakeForm } from '#core/intake/form.ts'
import { type Language, LANGUAGES } from '#core/languages/language.ts'
import { ANSWER, type AnswerState } from '#core/states/all.ts'
import type { Sealed } from '#server/ground/secrets.ts'
import { held, instant, oneOf } from './columns.ts'
import { person } from './people.ts'
import { apiKey } from './programs.ts'
import { record } from './records.ts'

// Forms that outside people fill, the links to them, and what was answered.

/** Forms that outside people fill. */
export const intakeForm = pgTable('intake_form', {
  id: uuid('id').primaryKey(),
  /** What its answers become: one agreement of each template, or one of a packet. */
  templateIds: uuid('template_ids').array().notNull(),
  packetId: uuid('packet_id'),
  content: jsonb('content').notNull().$type<IntakeForm>(),
  version: integer('version').notNull().default(1),
  /** In whose name its agreements are made, and who hears of answers. */
  ownerId: uuid('owner_id')
    .notNull()
    .references(() => person.id),
  createdAt: instant('created_at').notNull(),
  changedAt: instant('changed_at').notNull(),
  changedBy: uuid('changed_by')
    .notNull()
    .references(() => person.id),
  archivedAt: instant('archived_at'),
})

/** A public address of a form: whoever has it may answer. It is found by its hash, and shown again to those who keep the form. */
export const openLink = pgTable('open_link', {
  id: uuid('id').primaryKey(),
  formId: uuid('form_id')
    .notNull()
    .references(() => intakeForm.id),
  token: text('token').notNull().$type<Sealed>(),
  tokenHash: text('token_hash').notNull().unique(),
  name: text('name').notNull(),
  madeAt: instant('made_at').notNull(),
  madeBy: uuid('made_by')
    .notNull()
    .references(() => person.id),
  closesAt: instant('closes_at'),
  /** Answers that are taken over all; null: as many as come. */
  mostAnswers: integer('most_answers'),
  /** Answers that are taken from one network address in an hour. */
  perHour: integer('per_hour').notNull(),
  /** Origins (RFC 6454) of pages that may show it in a frame. */
  origins: text('origins').array().notNull(),
  closedAt: instant('closed_at'),
})

/** What one person answers: begun, handed in, made into agreements. */
export const intakeAnswer = pgTable(
  'intake_answer',
  {
    id: uuid('id').primaryKey(),
    formId: uuid('form_id')
      .notNull()
      .references(() => intakeForm.id),
    /** The open link that they came by; null: they were invited. */
    linkId: uuid('link_id').references(() => openLink.id),
    /** SHA-256 of what brings them back to it. */
    tokenHash: text('token_hash').notNull().unique(),
    /** Of an invitation: who was asked, by whom, about which record, until when. */
    name: text('name').notNull().default(''),
    email: text('email').notNull().default(''),
    /** The address that an invitation went to, whatever is said of it later. */
    invitedEmail: text('invited_email').notNull().default(''),
    invitedBy: uuid('invited_by').references(() => person.id),
    recordId: uuid('record_id').references(() => record.id),
    expiresAt: instant('expires_at'),
    language: text('language').notNull().$type<Language>(),
    answers: jsonb('answers').notNull().$type<Answers>(),
    /** Of one that a program asked for: by which key, under which reference, and a hash of what it asked. */
    keyId: uuid('key_id').references(() => apiKey.id),
    reference: text('reference'),
    asked: text('asked'),
    /** Counts what was kept: a browser that comes late does not undo another. */
    version: integer('version').notNull().default(1),
    state: text('state').notNull().$type<AnswerState>(),
    /** What keeps it from being made. */
    problems: jsonb('problems').notNull().default([]).$type<readonly AnswerProblem[]>(),
    /** What it is to the record book; `changed` waits for somebody to say which of the two counts. */
    outcome: text('outcome').$type<'new' | 'changed' | 'same' | 'taken' | 'kept'>(),
    differences: jsonb('differences')
      .notNull()
      .default([])
      .$type<readonly { readonly field: string; readonly before: string; readonly after: string }[]>(),
    agreementIds: uuid('agreement_ids')
      .array()
      .notNull()
      .default(sql`'{}'`),
    address: text('address'),
    tries: integer('tries').notNull().default(0),
    ...held,
    createdAt: instant('created_at').notNull(),
    changedAt: instant('changed_at').notNull(),
    handedInAt: instant('handed_in_at'),
    /** Whether the person it is for has looked at it since. */
    seen: boolean('seen').notNull().default(false),
  },
  (t) => [
    index('intake_answer_by_form').on(t.formId, t.createdAt),
    index('intake_answer_waiting')
      .on(t.handedInAt)
      .where(sql`${t.state} = 'handed in'`),
    unique('intake_answer_reference').on(t.keyId, t.reference),
    index('intake_answer_by_record').on(t.recordId),
    check('intake_answer_language', oneOf(t.language, LANGUAGES)),
    check('intake_answer_state', oneOf(t.state, ANSWER.states)),
    check('intake_answer_outcome', oneOf(t.outcome, ['new', 'changed', 'same', 'taken', 'kept'])),
  ],
)

/** A file that came with an answer. */
export const intakeFile = pgTable(
  'intake_file',
  {
    answerId: uuid('answer_id')
      .notNull()
      .references(() => intakeAnswer.id, { onDelete: 'cascade' }),
    question: text('question').notNull(),
    sha256: text('sha256').notNull(),
    name: text('name').notNull(),
    size: integer('size').notNull(),
    mediaType: text('media_type').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.answerId, t.question, t.sha256] })],
)

/** A file that belongs to a record: it came with an answer, or an agreement was filed to it. */
export const recordFile = pgTable(
  'record_file',
  {
    recordId: uuid('record_id')
      .notNull()
      .references(() => record.id),
    sha256: text('sha256').notNull(),
    name: text('name').notNull(),
    size: integer('size').notNull(),
    mediaType: text('media_type').notNull(),
    /** Where it came from, in words. */
    source: text('source').notNull(),
    agreementId: uuid('agreement_id'),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.sha256, t.name] })],
)
