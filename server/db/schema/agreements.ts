import { sql } from 'drizzle-orm'
import {
  boolean,
  check,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  unique,
  uuid,
} from 'drizzle-orm/pg-core'
import type { Origin } from '#core/agreement/origin.ts'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import { STATES } from '#core/agreement/states.ts'
import { type Check, CHECKS, PARTY_KINDS, type PartyKind, type Way, WAYS } from '#core/ceremony/parties.ts'
import { type Language, LANGUAGES } from '#core/languages/language.ts'
import type { ReminderPlan } from '#core/ceremony/times.ts'
import { NOTICE_FORMS, type NoticeForm, type TemplateContent } from '#core/document/template.ts'
import type { RecordData } from '#core/outline/field.ts'
import { STEP, type StepState } from '#core/states/all.ts'
import type { AnyOf } from '#core/approvers/mention.ts'
import type { Basis, Reason } from '#core/routing/route.ts'
import { instant, oneOf } from './columns.ts'
import { type ExtraFile, file } from './files.ts'
import { person, team } from './people.ts'
import { runRow } from './runs.ts'
import { edition, series } from './templates.ts'

// Agreements with the claims they begin with, their revisions, parties and approvals.

/**
 * That an agreement is to be made of something: its id and its number, allotted once and for good before anything is drawn.
 * Gapless in each series, because allotting counts the series up.
 */
export const claim = pgTable(
  'claim',
  {
    /** The agreement's id, once it is made. */
    id: uuid('id').primaryKey(),
    seriesId: text('series_id')
      .notNull()
      .references(() => series.id),
    number: integer('number').notNull(),
    origin: jsonb('origin').notNull().$type<Origin>(),
    /** What tells one asking from the next where the origin does not: asked again, it is the same claim. */
    occasion: text('occasion').unique(),
    at: instant('at').notNull(),
    /** Of a run's row, out of its origin. */
    runId: uuid('run_id').generatedAlwaysAs(sql`(origin->>'run')::uuid`),
    row: integer('row').generatedAlwaysAs(sql`(origin->>'row')::int`),
  },
  (t) => [
    unique('claim_number').on(t.seriesId, t.number),
    unique('claim_row').on(t.runId, t.row),
    // A row that has its number cannot go.
    foreignKey({ columns: [t.runId, t.row], foreignColumns: [runRow.runId, runRow.row] }),
    check(
      'claim_origin',
      sql`(${t.origin}->>'kind' = 'row') = (${t.runId} is not null and ${t.row} is not null)
        and (${t.origin}->>'kind' = 'row') = (${t.occasion} is null)`,
    ),
  ],
)

/** Numbers of claims that came to nothing while later ones were allotted already: the next single claim of the series has it. */
export const freeNumber = pgTable(
  'free_number',
  {
    seriesId: text('series_id')
      .notNull()
      .references(() => series.id),
    number: integer('number').notNull(),
  },
  (t) => [primaryKey({ columns: [t.seriesId, t.number] })],
)

/** Agreements: what each is made from, how it stands, and what it says of itself. */
export const agreement = pgTable(
  'agreement',
  {
    id: uuid('id')
      .primaryKey()
      .references(() => claim.id),
    number: text('number').notNull().unique(),
    name: text('name').notNull(),
    fileName: text('file_name').notNull(),
    editionId: uuid('edition_id')
      .notNull()
      .references(() => edition.id),
    /** Of a packet: the editions of all its templates, in order; the first is `edition_id`. */
    packetEditions: uuid('packet_editions').array().notNull().default([]),
    state: text('state').notNull().$type<(typeof STATES)[number]>(),
    revision: integer('revision').notNull().default(1),
    data: jsonb('data').notNull().$type<RecordData>(),
    createdBy: uuid('created_by')
      .notNull()
      .references(() => person.id),
    createdAt: instant('created_at').notNull(),
    changedAt: instant('changed_at').notNull(),
    signBy: instant('sign_by'),
    /** When it went out, and who sent it; a revision that goes out again has its own. */
    sentAt: instant('sent_at'),
    sentBy: uuid('sent_by').references(() => person.id),
    /** When it goes by itself, set by whom, and whether though nobody has read its wording; only while it has not gone. */
    goesAt: instant('goes_at'),
    goesBy: uuid('goes_by').references(() => person.id),
    goesUnread: boolean('goes_unread').notNull().default(false),
    /** The team in whose name it is sent; none: in the sender's own. */
    teamId: uuid('team_id').references(() => team.id, { onDelete: 'set null' }),
    /** A notice, and how it goes out; null: it is signed. */
    notice: text('notice').$type<NoticeForm>(),
    /** A spoken or filmed word of the sender's, which stands before the text. */
    introduction: jsonb('introduction').$type<Introduction>(),
    /** When those who have not signed are reminded; null: as its template says. */
    plan: jsonb('plan').$type<ReminderPlan>(),
    /** When the clock has something to do with it next: a reminder, or its end. Only while it is out. */
    lookAt: instant('look_at'),
    subject: text('subject').notNull(),
    message: text('message').notNull(),
    executedSha256: text('executed_sha256').references(() => file.sha256),
    /** Key of its wording, and the wording itself where it was changed by hand for this one customer. */
    wording: text('wording').notNull().default(''),
    content: jsonb('content').$type<TemplateContent>(),
    /** BCP 47 tag its formats follow; null: the template's. */
    language: text('language'),
    /** Addresses that get the executed document, besides the template's. */
    copies: text('copies').array().notNull().default([]),
    /** Files that go along with it. */
    extra: jsonb('extra').notNull().default([]).$type<readonly ExtraFile[]>(),
    recordId: uuid('record_id'),
    /** Whoever shaped it: started its run, changed its set-up or rows, edited its words. None of them may approve it. */
    shapedBy: uuid('shaped_by').array().notNull().default([]),
    /** Days to sign in, as rules say; null: as usual. */
    signDays: integer('sign_days'),
    /** How many entries its trail has, and the hash of the last: what is missing at the end shows. */
    trailLength: integer('trail_length').notNull().default(0),
    trailHead: text('trail_head').notNull().default(''),
  },
  (t) => [
    check('agreement_state', oneOf(t.state, STATES)),
    check('agreement_revision', sql`${t.revision} > 0`),
    check('agreement_executed_file', sql`${t.state} <> 'executed' or ${t.executedSha256} is not null`),
    check('agreement_notice', oneOf(t.notice, NOTICE_FORMS)),
    check('agreement_goes', sql`(${t.goesAt} is null) = (${t.goesBy} is null)`),
    index('agreement_to_go').on(t.goesAt),
    check('agreement_out_sign_by', sql`${t.state} <> 'out' or ${t.signBy} is not null`),
    index('agreement_by_state').on(t.state, t.changedAt),
    index('agreement_by_record').on(t.recordId),
    index('agreement_by_edition').on(t.editionId),
    index('agreement_by_words').using('gin', t.name.op('gin_trgm_ops'), t.number.op('gin_trgm_ops')),
    index('agreement_to_look_at')
      .on(t.lookAt)
      .where(sql`${t.state} = 'out'`),
  ],
)

/** A recorded word of the sender's: a file of sound or film, with what is said in it. */
export interface Introduction {
  readonly sha256: string
  readonly size: number
  /** Of the file (RFC 6838). */
  readonly type: string
  readonly kind: 'sound' | 'film'
  readonly transcript: string
}

/** One document of a packet: pages counted from 1 within the whole file. */
export interface PacketPart {
  readonly title: string
  readonly editionId: string
  readonly firstPage: number
  readonly pages: number
}

/** The document of each revision, and where its blanks stand. */
export const revision = pgTable(
  'revision',
  {
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    number: integer('number').notNull(),
    fileSha256: text('file_sha256')
      .notNull()
      .references(() => file.sha256),
    pages: integer('pages').notNull(),
    blanks: jsonb('blanks').notNull().$type<readonly PlacedBlank[]>(),
    /** The documents of a packet within the file; empty for a single document. */
    parts: jsonb('parts').notNull().default([]).$type<readonly PacketPart[]>(),
  },
  (t) => [primaryKey({ columns: [t.agreementId, t.number] }), check('revision_pages', sql`${t.pages} > 0`)],
)

/** A signature that was given on paper: the scanned pages as one PDF, in the document's order. */
export interface PaperSignature {
  readonly sha256: string
  readonly pages: number
  /** Whoever put it back. */
  readonly by: string
}

/** Parties of a revision: who signs, agrees or gets a copy. */
export const party = pgTable(
  'party',
  {
    id: uuid('id').primaryKey(),
    agreementId: uuid('agreement_id').notNull(),
    revision: integer('revision').notNull(),
    role: text('role').notNull(),
    label: text('label').notNull(),
    order: integer('order').notNull(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    title: text('title').notNull(),
    kind: text('kind').notNull().default('signer').$type<PartyKind>(),
    /** The language they are spoken to in; null: the agreement's. */
    language: text('language').$type<Language>(),
    /** ITU-T E.164, for codes by text; empty: none is known. */
    phone: text('phone').notNull().default(''),
    /** How their links reach them. */
    linkBy: text('link_by').notNull().default('mail').$type<Way>(),
    /** What they have to show besides their link. */
    check: text('check').notNull().default('link').$type<Check>(),
    /** Of an agreed code: scrypt, with its salt. */
    codeHash: text('code_hash'),
    /** Wrong answers in a row; at the limit nobody gets in until the sender sets another code, or writes to them anew. */
    wrong: integer('wrong').notNull().default(0),
    /** What the sender says to them alone. */
    message: text('message').notNull().default(''),
    /** Of one who gets a copy: whether they may read it while it is being signed, or get the executed one alone. */
    copyNow: boolean('copy_now').notNull().default(false),
    mayDecline: boolean('may_decline').notNull().default(true),
    mayHandOver: boolean('may_hand_over').notNull().default(false),
    /** When they were first written to, and when last. */
    invitedAt: instant('invited_at'),
    writtenAt: instant('written_at'),
    openedAt: instant('opened_at'),
    consentedAt: instant('consented_at'),
    signedAt: instant('signed_at'),
    declinedAt: instant('declined_at'),
    reason: text('reason'),
    address: text('address'),
    /** Signed in person, at the device of whoever this names. */
    atDeviceOf: text('at_device_of'),
    /** Signed straight from an intake form: who they are rests on it alone. */
    fromForm: boolean('from_form').notNull().default(false),
    /** Signed on paper: the scan that was put back, and by whom. */
    paper: jsonb('paper').$type<PaperSignature>(),
  },
  (t) => [
    unique('party_role').on(t.agreementId, t.revision, t.role),
    foreignKey({
      columns: [t.agreementId, t.revision],
      foreignColumns: [revision.agreementId, revision.number],
    }),
    check(
      'party_signed_after_consent',
      sql`${t.signedAt} is null or (${t.invitedAt} is not null and (${t.consentedAt} is not null or ${t.paper} is not null))`,
    ),
    check('party_signed_or_declined', sql`${t.signedAt} is null or ${t.declinedAt} is null`),
    check('party_kind', oneOf(t.kind, PARTY_KINDS)),
    check('party_check', oneOf(t.check, CHECKS)),
    check('party_link_by', oneOf(t.linkBy, WAYS)),
    check('party_language', oneOf(t.language, LANGUAGES)),
    check('party_agreed_code', sql`(${t.codeHash} is not null) = (${t.check} = 'agreed code')`),
  ],
)

/** One approval of an agreement, with the edition of the table, the rows and the values that led to it. */
export const step = pgTable(
  'step',
  {
    id: uuid('id').primaryKey(),
    agreementId: uuid('agreement_id').notNull(),
    revision: integer('revision').notNull(),
    /** Counts the rounds of approval of a revision: a returned agreement starts another. */
    round: integer('round').notNull(),
    approver: text('approver').notNull(),
    /** Those of whom any one decides. */
    who: jsonb('who').notNull().$type<AnyOf>(),
    /** Steps of a lower number come first. */
    order: integer('step_order').notNull().default(1),
    reason: text('reason').notNull(),
    reasons: jsonb('reasons').notNull().default([]).$type<readonly Reason[]>(),
    basis: jsonb('basis').notNull().default({}).$type<Basis>(),
    /** Days it may take, and who decides it too after that. */
    days: integer('days'),
    escalateTo: jsonb('escalate_to').notNull().default([]).$type<AnyOf>(),
    escalatedAt: instant('escalated_at'),
    state: text('state').notNull().$type<StepState>(),
    /** Since when it waits, or would. */
    since: instant('since').notNull(),
    dueAt: instant('due_at'),
    remindedAt: instant('reminded_at'),
    /** Somebody whom it was handed to. */
    handedTo: uuid('handed_to').references(() => person.id),
    /** Whoever decided stood in for them. */
    decidedFor: text('decided_for'),
    /** The step of a former round whose approval still counts. */
    keptFrom: uuid('kept_from'),
    decidedAt: instant('decided_at'),
    decidedBy: uuid('decided_by').references(() => person.id),
    note: text('note'),
  },
  (t) => [
    unique('step_approver').on(t.agreementId, t.revision, t.round, t.approver),
    foreignKey({
      columns: [t.agreementId, t.revision],
      foreignColumns: [revision.agreementId, revision.number],
    }),
    check('step_state', oneOf(t.state, STEP.states)),
    check('step_decided', sql`(${t.state} in ('approved', 'returned')) = (${t.decidedAt} is not null)`),
    check('step_return_note', sql`${t.state} <> 'returned' or length(${t.note}) > 0`),
    index('step_waiting')
      .on(t.dueAt)
      .where(sql`${t.state} = 'waiting'`),
  ],
)

/** A question of an approver's, and its answer; both stay with the agreement. */
export const question = pgTable(
  'question',
  {
    id: uuid('id').primaryKey(),
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    stepId: uuid('step_id')
      .notNull()
      .references(() => step.id),
    askedBy: uuid('asked_by')
      .notNull()
      .references(() => person.id),
    askedAt: instant('asked_at').notNull(),
    text: text('text').notNull(),
    answeredBy: uuid('answered_by').references(() => person.id),
    answeredAt: instant('answered_at'),
    answer: text('answer'),
  },
  (t) => [
    index('question_of_agreement').on(t.agreementId),
    check('question_answered', sql`(${t.answer} is null) = (${t.answeredAt} is null)`),
  ],
)
