import { sql } from 'drizzle-orm'
import { check, date, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import { chained } from './columns.ts'
import { agreement } from './agreements.ts'

// What happened, append-only.

/** Append-only: a trigger refuses update and delete. */
export const trail = pgTable(
  'trail',
  {
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    seq: integer('seq').notNull(),
    ...chained,
  },
  (t) => [primaryKey({ columns: [t.agreementId, t.seq] }), check('trail_seq', sql`${t.seq} > 0`)],
)

/** What was done to the installation: templates, rules, rights, runs. Append-only, chained as an agreement's trail is. */
export const installationTrail = pgTable(
  'installation_trail',
  {
    seq: integer('seq').primaryKey(),
    ...chained,
  },
  (t) => [check('installation_trail_seq', sql`${t.seq} > 0`)],
)

/**
 * Where the trails that grew on a day stood at its end. The installation's trail has a hash over them, so that entries
 * taken off an agreement's trail later are missed here, whatever else was changed. Append-only.
 */
export const trailAnchor = pgTable(
  'trail_anchor',
  {
    day: date('day').notNull(),
    agreementId: uuid('agreement_id')
      .notNull()
      .references(() => agreement.id),
    length: integer('length').notNull(),
    head: text('head').notNull(),
  },
  (t) => [primaryKey({ columns: [t.day, t.agreementId] })],
)
