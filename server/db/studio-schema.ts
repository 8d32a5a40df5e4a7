import { sql } from 'drizzle-orm'
import {
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
import type { Look } from '#core/document/look.ts'
import type { Clause } from '#core/document/tree.ts'
import type { RecordData } from '#core/outline/field.ts'
import { instant } from './columns.ts'
import { person, template } from './schema.ts'

// What templates are made with: shelves and teams, document looks, the clause library, saved cases.

export const team = pgTable('team', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull().unique(),
})

export const teamMember = pgTable(
  'team_member',
  {
    teamId: uuid('team_id')
      .notNull()
      .references(() => team.id, { onDelete: 'cascade' }),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id, { onDelete: 'cascade' }),
  },
  (t) => [primaryKey({ columns: [t.teamId, t.personId] })],
)

/** A folder of templates. Without rows in `shelf_right` everyone may do what their own rights allow. */
export const shelf = pgTable('shelf', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull().unique(),
})

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
