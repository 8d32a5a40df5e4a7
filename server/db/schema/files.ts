import { sql } from 'drizzle-orm'
import { check, index, integer, pgTable, text } from 'drizzle-orm/pg-core'
import { instant } from './columns.ts'

// Files by their hash, and how they go along with others.

/** A stored file; its bytes lie under its SHA-256 in the file store. */
export const file = pgTable(
  'file',
  {
    sha256: text('sha256').primaryKey(),
    size: integer('size').notNull(),
    mediaType: text('media_type').notNull(),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [check('file_sha256', sql`${t.sha256} ~ '^[0-9a-f]{64}$'`), check('file_size', sql`${t.size} >= 0`)],
)

/** Files that somebody has begun to store, and when last: without a record an hour later they are left over. */
export const fileBegun = pgTable(
  'file_begun',
  { sha256: text('sha256').primaryKey(), at: instant('at').notNull() },
  (t) => [index('file_begun_by_time').on(t.at)],
)

/** A file that goes along with an agreement. */
export interface ExtraFile {
  readonly name: string
  readonly sha256: string
}
