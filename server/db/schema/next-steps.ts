import { sql } from 'drizzle-orm'
import { check, date, index, integer, jsonb, pgTable, text, unique, uuid } from 'drizzle-orm/pg-core'
import type { Step } from '#core/next-steps/steps.ts'
import { FOLLOWING, type FollowingState } from '#core/states/all.ts'
import { agreement } from './agreements.ts'
import type { Sealed } from '#server/ground/secrets.ts'
import { held, instant, oneOf } from './columns.ts'
import { person } from './people.ts'

// What follows when an agreement reaches a moment.

/** The list of what follows, of a template or a packet. */
export const aftermath = pgTable('aftermath', {
  /** The template's or the packet's id. */
  of: uuid('of').primaryKey(),
  steps: jsonb('steps').notNull().$type<readonly Step[]>(),
  version: integer('version').notNull().default(1),
  changedAt: instant('changed_at').notNull(),
  changedBy: uuid('changed_by')
    .notNull()
    .references(() => person.id),
})

/** Where documents are filed: a folder on this machine below the server's own, or one over HTTP (WebDAV, RFC 4918). */
export const folder = pgTable(
  'folder',
  {
    id: uuid('id').primaryKey(),
    name: text('name').notNull(),
    kind: text('kind').notNull().$type<'local' | 'webdav'>(),
    /** A path below the server's folder, or an address. */
    address: text('address').notNull(),
    userName: text('user_name').notNull().default(''),
    secret: text('secret').notNull().default('').$type<Sealed>(),
    createdAt: instant('created_at').notNull(),
    createdBy: uuid('created_by')
      .notNull()
      .references(() => person.id),
    endedAt: instant('ended_at'),
  },
  (t) => [check('folder_kind', oneOf(t.kind, ['local', 'webdav']))],
)

/** One step of one agreement: written when its moment came, as the list was then. */
export const aftermathStep = pgTable(
  'aftermath_step',
  {
    id: uuid('id').primaryKey(),
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    /** The step as it was. */
    step: jsonb('step').notNull().$type<Step>(),
    stepId: text('step_id').notNull(),
    place: integer('place').notNull(),
    state: text('state').notNull().$type<FollowingState>(),
    dueAt: instant('due_at').notNull(),
    tries: integer('tries').notNull().default(0),
    /** Whoever had it done again; null: it goes by whoever sent the agreement. */
    byId: uuid('by_id').references(() => person.id),
    /** What came of it, or why nothing did. */
    said: text('said').notNull().default(''),
    /** A document that it made. */
    madeId: uuid('made_id'),
    at: instant('at').notNull(),
    endedAt: instant('ended_at'),
    ...held,
  },
  (t) => [
    unique('aftermath_step_once').on(t.agreementId, t.stepId),
    index('aftermath_step_due')
      .on(t.dueAt)
      .where(sql`${t.state} = 'waiting'`),
    check('aftermath_step_state', oneOf(t.state, FOLLOWING.states)),
  ],
)

/** Something that somebody has to do after an agreement. */
export const followUp = pgTable(
  'follow_up',
  {
    id: uuid('id').primaryKey(),
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id),
    text: text('text').notNull(),
    dueOn: date('due_on', { mode: 'string' }).notNull(),
    createdAt: instant('created_at').notNull(),
    doneAt: instant('done_at'),
    doneBy: uuid('done_by').references(() => person.id),
  },
  (t) => [
    index('follow_up_open')
      .on(t.personId, t.dueOn)
      .where(sql`${t.doneAt} is null`),
  ],
)
