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
import type { RuleTable } from '#core/rules/table.ts'
import { instant } from './columns.ts'
import { person } from './people.ts'

// Rule tables: a draft that changes, editions that never do, and cases that each edition is run on.

/** Rule tables with their drafts. */
export const ruleTable = pgTable(
  'rule_table',
  {
    id: uuid('id').primaryKey(),
    draft: jsonb('draft').notNull().$type<RuleTable>(),
    /** The decision model that it was read from (DMN 1.3 XML), for what that says beyond a table. */
    model: text('model'),
    /** Counts saved changes of the draft; a save names the version it was made from. */
    draftVersion: integer('draft_version').notNull().default(1),
    /** Whether its newest edition decides. */
    inForce: boolean('in_force').notNull().default(false),
    changedAt: instant('changed_at').notNull(),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [check('rule_table_draft_version', sql`${t.draftVersion} > 0`)],
)

/** What was put in force, and never changes. */
export const ruleEdition = pgTable(
  'rule_edition',
  {
    tableId: uuid('table_id')
      .notNull()
      .references(() => ruleTable.id),
    number: integer('number').notNull(),
    content: jsonb('content').notNull().$type<RuleTable>(),
    publishedAt: instant('published_at').notNull(),
    publishedBy: uuid('published_by')
      .notNull()
      .references(() => person.id),
    note: text('note').notNull().default(''),
  },
  (t) => [
    primaryKey({ columns: [t.tableId, t.number] }),
    check('rule_edition_positive', sql`${t.number} > 0`),
  ],
)

/** Values, and what the table has to say of them. */
export const ruleCase = pgTable(
  'rule_case',
  {
    id: uuid('id').primaryKey(),
    tableId: uuid('table_id')
      .notNull()
      .references(() => ruleTable.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    values: jsonb('values').notNull().$type<Readonly<Record<string, string>>>(),
    expected: jsonb('expected').notNull().$type<readonly string[]>(),
    changedAt: instant('changed_at').notNull(),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [unique('rule_case_name').on(t.tableId, t.name)],
)

/** A time away, both days included, in the organisation's calendar. */
export const absence = pgTable(
  'absence',
  {
    id: uuid('id').primaryKey(),
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id, { onDelete: 'cascade' }),
    from: text('from_day').notNull(),
    to: text('to_day').notNull(),
    standInId: uuid('stand_in_id').references(() => person.id),
  },
  (t) => [
    index('absence_of_person').on(t.personId),
    check('absence_days', sql`${t.from} <= ${t.to}`),
    check('absence_other', sql`${t.standInId} is null or ${t.standInId} <> ${t.personId}`),
  ],
)

/** Wordings that somebody has opened: who approves many at once has seen what each of them says. */
export const wordingOpened = pgTable(
  'wording_opened',
  {
    personId: uuid('person_id')
      .notNull()
      .references(() => person.id, { onDelete: 'cascade' }),
    editionId: uuid('edition_id').notNull(),
    /** Key of the wording; of one changed by hand: the agreement and its revision. */
    wording: text('wording').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.personId, t.editionId, t.wording] })],
)
