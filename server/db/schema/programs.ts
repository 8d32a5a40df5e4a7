import { sql } from 'drizzle-orm'
import {
  bigserial,
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
import type { Scope } from '#contract/scope.ts'
import type { PointedProblem } from '#core/mapping/nested.ts'
import type { RecordData } from '#core/outline/field.ts'
import { DELIVERY, type DeliveryState, START, type StartState } from '#core/states/all.ts'
import { agreement } from './agreements.ts'
import type { Sealed } from '#server/ground/secrets.ts'
import { held, instant, oneOf } from './columns.ts'
import { person, team } from './people.ts'
import { record } from './records.ts'

// Programs that call: their keys, and what they started.

/** A key that a program calls with: it may what its person may, within its scopes. Only hashes of its secrets are kept. */
export const apiKey = pgTable('api_key', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  /** Whose rights it has. */
  personId: uuid('person_id')
    .notNull()
    .references(() => person.id),
  /** The team that it is bound to: it may no more than that team, and lives on with it when its person leaves. */
  teamId: uuid('team_id').references(() => team.id),
  scopes: text('scopes').array().notNull().$type<Scope[]>(),
  /** The part of the key that is no secret, by which it is found. */
  handle: text('handle').notNull().unique(),
  secretHash: text('secret_hash').notNull(),
  /** The secret before the last rotation, and until when it counts beside the new one. */
  formerHash: text('former_hash'),
  formerUntil: instant('former_until'),
  createdAt: instant('created_at').notNull(),
  createdBy: uuid('created_by')
    .notNull()
    .references(() => person.id),
  expiresAt: instant('expires_at'),
  /** To the minute. */
  lastUsedAt: instant('last_used_at'),
  revokedAt: instant('revoked_at'),
})

/** One agreement that a program asked for: taken with the answer, made after it. */
export const start = pgTable(
  'program_start',
  {
    id: uuid('id').primaryKey(),
    keyId: uuid('key_id')
      .notNull()
      .references(() => apiKey.id),
    /** The call's idempotency key; of one among several, with its place. */
    reference: text('reference').notNull(),
    /** SHA-256 of what was asked: the same reference cannot ask for something else. */
    asked: text('asked').notNull(),
    /** What it is made of: the editions that were the newest when it was asked for, and the values as they were read. */
    editionId: uuid('edition_id').notNull(),
    packetEditions: uuid('packet_editions').array().notNull(),
    data: jsonb('data').notNull().$type<RecordData>(),
    recordId: uuid('record_id').references(() => record.id),
    state: text('state').notNull().$type<StartState>(),
    agreementId: uuid('agreement_id').references(() => agreement.id),
    problems: jsonb('problems').notNull().default([]).$type<readonly PointedProblem[]>(),
    tries: integer('tries').notNull().default(0),
    at: instant('at').notNull(),
    endedAt: instant('ended_at'),
    ...held,
  },
  (t) => [
    index('program_start_taken')
      .on(t.at)
      .where(sql`${t.state} = 'taken'`),
    unique('program_start_reference').on(t.keyId, t.reference),
    check('program_start_state', oneOf(t.state, START.states)),
  ],
)

/** A program that is told of what happens to agreements. */
export const webhook = pgTable('webhook', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  url: text('url').notNull(),
  /** Acts that it is told of; none: all. */
  acts: text('acts').array().notNull(),
  /** What it is signed with; both sides know it. */
  secret: text('secret').notNull().$type<Sealed>(),
  createdAt: instant('created_at').notNull(),
  createdBy: uuid('created_by')
    .notNull()
    .references(() => person.id),
  /** Not told any more, by whom or what. */
  endedAt: instant('ended_at'),
  endedBecause: text('ended_because'),
  /** Since when it does not answer, how often in a row, and when it is tried again. */
  silentSince: instant('silent_since'),
  failures: integer('failures').notNull().default(0),
  triedAgainAt: instant('tried_again_at'),
  /** Which worker is at it, as long as this has not passed. */
  heldUntil: instant('held_until'),
})

/** One act that a webhook is to be told: written with the act itself, told after it. */
export const webhookDelivery = pgTable(
  'webhook_delivery',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    webhookId: uuid('webhook_id')
      .notNull()
      .references(() => webhook.id, { onDelete: 'cascade' }),
    agreementId: uuid('agreement_id').notNull(),
    seq: integer('seq').notNull(),
    state: text('state').notNull().$type<DeliveryState>(),
    tries: integer('tries').notNull().default(0),
    at: instant('at').notNull(),
    dueAt: instant('due_at').notNull(),
    status: integer('status'),
    /** What it answered, or why nothing came. */
    said: text('said').notNull().default(''),
    endedAt: instant('ended_at'),
  },
  (t) => [
    unique('webhook_delivery_act').on(t.webhookId, t.agreementId, t.seq),
    index('webhook_delivery_waiting')
      .on(t.webhookId, t.agreementId, t.seq)
      .where(sql`${t.state} = 'waiting'`),
    check('webhook_delivery_state', oneOf(t.state, DELIVERY.states)),
  ],
)

/** A run that a program started: under which reference, and what was asked. */
export const programRun = pgTable(
  'program_run',
  {
    keyId: uuid('key_id')
      .notNull()
      .references(() => apiKey.id),
    reference: text('reference').notNull(),
    asked: text('asked').notNull(),
    /** Its id, given before it was there. */
    runId: uuid('run_id').notNull().unique(),
  },
  (t) => [primaryKey({ columns: [t.keyId, t.reference] })],
)
