import { check, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import { sql } from 'drizzle-orm'
import type { Fingerprint } from '#core/form/fingerprint.ts'
import type { FoundField, PageRead } from '#core/form/page-read.ts'
import { instant } from './columns.ts'
import { file } from './files.ts'
import { person } from './people.ts'

// Files whose pages forms are made of, and what was read on them.

/** A file of pages, made normal; the same bytes brought in twice are one. */
export const pageFile = pgTable(
  'page_file',
  {
    sha256: text('sha256')
      .primaryKey()
      .references(() => file.sha256),
    /** As it was called when it was first brought in. */
    name: text('name').notNull(),
    pages: integer('pages').notNull(),
    fields: jsonb('fields').notNull().$type<readonly FoundField[]>(),
    fingerprint: jsonb('fingerprint').notNull().$type<Fingerprint>(),
    at: instant('at').notNull(),
    by: uuid('by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [check('page_file_pages', sql`${t.pages} > 0`), index('page_file_by_time').on(t.at)],
)

/** What was read on one of its pages. */
export const pageRead = pgTable(
  'page_read',
  {
    sha256: text('sha256')
      .notNull()
      .references(() => pageFile.sha256, { onDelete: 'cascade' }),
    page: integer('page').notNull(),
    read: jsonb('read').notNull().$type<PageRead>(),
  },
  (t) => [primaryKey({ columns: [t.sha256, t.page] })],
)
