import { sql } from 'drizzle-orm'
import {
  type AnyPgColumn,
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
import type { ImportRemark } from '#contract/template.ts'
import type { Look } from '#core/document/look.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { Clause } from '#core/document/tree.ts'
import type { RecordData } from '#core/outline/field.ts'
import { instant } from './columns.ts'
import { person, team } from './people.ts'

// Templates with their editions, shelves, and what they are made with.

/** Series of gapless numbers. */
export const series = pgTable(
  'series',
  {
    id: text('id').primaryKey(),
    pattern: text('pattern').notNull(),
    lastNumber: integer('last_number').notNull().default(0),
  },
  (t) => [check('series_last_number', sql`${t.lastNumber} >= 0`)],
)

/** A folder of templates. Without rows in `shelf_right` everyone may do what their own rights allow. */
export const shelf = pgTable('shelf', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull().unique(),
})

/** Who may use, or change, what is on a shelf. */
export const shelfRight = pgTable(
  'shelf_right',
  {
    shelfId: uuid('shelf_id')
      .notNull()
      .references(() => shelf.id, { onDelete: 'cascade' }),
    teamId: uuid('team_id')
      .notNull()
      .references(() => team.id, { onDelete: 'cascade' }),
    use: boolean('may_use').notNull(),
    edit: boolean('may_edit').notNull(),
    publish: boolean('may_publish').notNull(),
  },
  (t) => [primaryKey({ columns: [t.shelfId, t.teamId] })],
)

/** Templates with their drafts. */
export const template = pgTable(
  'template',
  {
    id: uuid('id').primaryKey(),
    name: text('name').notNull(),
    seriesId: text('series_id')
      .notNull()
      .references(() => series.id),
    draft: jsonb('draft').notNull().$type<TemplateContent>(),
    /** Counts saved changes of the draft; a save names the version it was made from. */
    draftVersion: integer('draft_version').notNull().default(1),
    changedAt: instant('changed_at').notNull(),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
    shelfId: uuid('shelf_id').references((): AnyPgColumn => shelf.id),
    /** Made for one agreement of a file alone: it is on no list. */
    oneOff: boolean('one_off').notNull().default(false),
    /** What did not carry over from the document it was made from. */
    importReport: jsonb('import_report').notNull().default([]).$type<readonly ImportRemark[]>(),
  },
  (t) => [check('template_draft_version', sql`${t.draftVersion} > 0`)],
)

/** What was published, and never changes. */
export const edition = pgTable(
  'edition',
  {
    id: uuid('id').primaryKey(),
    templateId: uuid('template_id')
      .notNull()
      .references(() => template.id),
    number: integer('number').notNull(),
    content: jsonb('content').notNull().$type<TemplateContent>(),
    publishedAt: instant('published_at').notNull(),
    publishedBy: uuid('published_by')
      .notNull()
      .references(() => person.id),
    note: text('note').notNull().default(''),
    cases: jsonb('cases')
      .notNull()
      .default({ passed: 0, failed: [] })
      .$type<{ readonly passed: number; readonly failed: readonly string[] }>(),
  },
  (t) => [
    unique('edition_number').on(t.templateId, t.number),
    check('edition_positive', sql`${t.number} > 0`),
  ],
)

/** Document looks of one's own; the finished ones are in core. */
export const look = pgTable(
  'look',
  {
    id: uuid('id').primaryKey(),
    name: text('name').notNull().unique(),
    look: jsonb('look').notNull().$type<Look>(),
    version: integer('version').notNull().default(1),
    changedAt: instant('changed_at').notNull(),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [check('look_version', sql`${t.version} > 0`)],
)

/** Clauses of the library. */
export const libraryClause = pgTable('library_clause', {
  id: uuid('id').primaryKey(),
  title: text('title').notNull(),
  tags: text('tags').array().notNull(),
})

/** Editions of library clauses never change. */
export const libraryEdition = pgTable(
  'library_edition',
  {
    clauseId: uuid('clause_id')
      .notNull()
      .references(() => libraryClause.id),
    number: integer('number').notNull(),
    content: jsonb('content').notNull().$type<Clause>(),
    publishedAt: instant('published_at').notNull(),
    publishedBy: uuid('published_by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [
    primaryKey({ columns: [t.clauseId, t.number] }),
    check('library_edition_positive', sql`${t.number} > 0`),
  ],
)

/** A record and the wording that a template must give for it, paragraph by paragraph. */
export const savedCase = pgTable(
  'saved_case',
  {
    id: uuid('id').primaryKey(),
    templateId: uuid('template_id')
      .notNull()
      .references(() => template.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    data: jsonb('data').notNull().$type<RecordData>(),
    expected: jsonb('expected').notNull().$type<readonly string[]>(),
    changedAt: instant('changed_at').notNull(),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [unique('saved_case_name').on(t.templateId, t.name), index('saved_case_template').on(t.templateId)],
)

/** Several templates that make one agreement of a record, signed in one sitting. */
export const packet = pgTable('packet', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull().unique(),
  templates: uuid('templates').array().notNull(),
  changedAt: instant('changed_at').notNull(),
  changedBy: uuid('changed_by')
    .notNull()
    .references(() => person.id),
})
