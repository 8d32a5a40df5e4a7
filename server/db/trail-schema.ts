import { sql } from 'drizzle-orm'
import { bigint, check, date, integer, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import { chained } from './columns.ts'
import { agreement } from './schema.ts'

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

/** Tries within a while, by what is counted; kept by the package rate-limiter-flexible. */
export const rateLimit = pgTable('rate_limit', {
  key: text('key').primaryKey(),
  points: integer('points').notNull().default(0),
  expire: bigint('expire', { mode: 'number' }),
})
