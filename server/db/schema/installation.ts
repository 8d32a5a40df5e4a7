import { sql } from 'drizzle-orm'
import {
  bigint,
  boolean,
  check,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  text,
  uuid,
} from 'drizzle-orm/pg-core'
import { TAX_SCHEMES, type TaxScheme } from '#core/organisation/organisation.ts'
import type { Sealed } from '#server/ground/secrets.ts'
import { instant, oneOf } from './columns.ts'

// Whose installation it is, and what its processes know of each other.

const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' })

/** Whose installation this is: one row, once it was founded. */
export const organisation = pgTable(
  'organisation',
  {
    only: boolean('only').primaryKey().default(true),
    name: text('name').notNull(),
    address: text('address').notNull(),
    place: text('place').notNull(),
    language: text('language').notNull(),
    timeZone: text('time_zone').notNull(),
    sender: text('sender').notNull(),
    synonyms: jsonb('synonyms').notNull().default([]).$type<readonly (readonly string[])[]>(),
    city: text('city').notNull().default(''),
    postCode: text('post_code').notNull().default(''),
    taxNumber: text('tax_number').notNull().default(''),
    taxScheme: text('tax_scheme').notNull().default('VAT').$type<TaxScheme>(),
    /** Counts changes; a change names the version it was made from. */
    version: integer('version').notNull().default(1),
  },
  (t) => [
    check('organisation_only', sql`${t.only}`),
    check('organisation_tax_scheme', oneOf(t.taxScheme, Object.keys(TAX_SCHEMES))),
  ],
)

/** Workers that live, or died unnoticed: each holds an advisory lock under its number. */
export const worker = pgTable('worker', {
  id: integer('id').primaryKey().generatedAlwaysAsIdentity(),
  startedAt: instant('started_at').notNull(),
  /** What it takes for a while is known by this. */
  holder: uuid('holder').notNull().defaultRandom(),
})

/** Jobs of the queue that a worker has in hand. */
export const workerJob = pgTable(
  'worker_job',
  {
    job: uuid('job').primaryKey(),
    worker: integer('worker').notNull(),
  },
  (t) => [index('worker_job_by_worker').on(t.worker)],
)

/** Work of long breath that goes on behind what people do, told on the desk until it has ended. */
export const backgroundWork = pgTable('background_work', {
  name: text('name').primaryKey(),
  label: text('label').notNull(),
  done: integer('done').notNull().default(0),
  total: integer('total').notNull().default(0),
  startedAt: instant('started_at').notNull(),
  endedAt: instant('ended_at'),
})

/** The seal's key of an installation that was not given one: made on first use, the same for every worker. */
export const sealKey = pgTable(
  'seal_key',
  {
    only: boolean('only').primaryKey().default(true),
    /** PKCS #12. */
    p12: bytes('p12').notNull(),
    passphrase: text('passphrase').notNull().$type<Sealed>(),
    /** The root that issued it, and the key of the stand-in that tells the time. */
    rootP12: bytes('root_p12'),
    rootPassphrase: text('root_passphrase').$type<Sealed>(),
    timeP12: bytes('time_p12'),
    timePassphrase: text('time_passphrase').$type<Sealed>(),
    madeAt: instant('made_at').notNull(),
  },
  (t) => [check('seal_key_only', sql`${t.only}`)],
)

/** What whoever founds an installation has to know: told in the server's log, kept here as its SHA-256. */
export const foundingCode = pgTable(
  'founding_code',
  {
    only: boolean('only').primaryKey().default(true),
    codeHash: text('code_hash').notNull(),
  },
  (t) => [check('founding_code_only', sql`${t.only}`)],
)

/** Tries within a while, by what is counted; kept by the package rate-limiter-flexible. */
export const rateLimit = pgTable('rate_limit', {
  key: text('key').primaryKey(),
  points: integer('points').notNull().default(0),
  expire: bigint('expire', { mode: 'number' }),
})
