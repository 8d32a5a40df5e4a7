import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import type { Auth, TheirKind } from '#core/connection/kinds.ts'
import type { Drift } from '#core/connection/found.ts'
import type { Difference } from '#core/connection/reconcile.ts'
import type { RecordData } from '#core/outline/field.ts'
import type { Sealed } from '#server/ground/secrets.ts'
import { instant } from './columns.ts'
import { person } from './people.ts'
import { record } from './records.ts'

// Customer systems that records come from and results go to.

/** Customer systems that records come from. */
export const connection = pgTable('connection', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  address: text('address').notNull(),
  /** Where its description is, below the address; empty: it has none. */
  description: text('description').notNull(),
  /** How it is opened; its secret is encrypted. */
  auth: jsonb('auth').notNull().$type<Auth<Sealed>>(),
  kinds: jsonb('kinds').notNull().$type<readonly TheirKind[]>(),
  /** What is not any more as it was mapped. */
  drift: jsonb('drift').notNull().default([]).$type<readonly Drift[]>(),
  /** Minutes between two pulls; null: only when it calls, or somebody asks. */
  everyMinutes: integer('every_minutes'),
  /** What its own webhook is signed with (Standard Webhooks). */
  hookSecret: text('hook_secret').notNull().$type<Sealed>(),
  /** In whose name records are changed, and who is told where it fails. */
  ownerId: uuid('owner_id')
    .notNull()
    .references(() => person.id),
  version: integer('version').notNull().default(1),
  createdAt: instant('created_at').notNull(),
  /** When the last pull that came to its end began: what changed since is asked for. */
  pulledAt: instant('pulled_at'),
  /** Why the last pull came to nothing, how often in a row, and when it is tried again. */
  problem: text('problem'),
  failures: integer('failures').notNull().default(0),
  dueAt: instant('due_at'),
  /** Which worker is at it, as long as this has not passed. */
  heldUntil: instant('held_until'),
  /** What the last pull did. */
  made: integer('made').notNull().default(0),
  changed: integer('changed').notNull().default(0),
  endedAt: instant('ended_at'),
})

/** A record of theirs with ours, and what both were when they last agreed. */
export const connectedRecord = pgTable(
  'connected_record',
  {
    connectionId: uuid('connection_id')
      .notNull()
      .references(() => connection.id, { onDelete: 'cascade' }),
    kind: text('kind').notNull(),
    theirId: text('their_id').notNull(),
    /** Null: it could not be taken over. */
    recordId: uuid('record_id').references(() => record.id),
    theirs: jsonb('theirs').notNull().$type<RecordData>(),
    ourVersion: integer('our_version').notNull(),
    /** Fields that both changed in different ways, with what theirs would make of it. */
    conflict: jsonb('conflict').$type<{
      readonly differences: readonly Difference[]
      readonly theirs: RecordData
    }>(),
    problems: jsonb('problems')
      .notNull()
      .default([])
      .$type<readonly { readonly field: string; readonly message: string }[]>(),
    seenAt: instant('seen_at').notNull(),
    /** Id of the customer of theirs that it belongs to, where it names one. */
    owner: text('owner'),
    /** It waits for that customer, who has not come yet. */
    waits: boolean('waits').notNull().default(false),
  },
  (t) => [
    primaryKey({ columns: [t.connectionId, t.kind, t.theirId] }),
    index('connected_record_ours').on(t.recordId),
  ],
)
