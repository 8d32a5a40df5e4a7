import { check, index, integer, jsonb, pgTable, primaryKey, text, unique, uuid } from 'drizzle-orm/pg-core'
import type { Field, RecordData } from '#core/outline/field.ts'
import type { RecordFilter } from '#core/records/filter.ts'
import { RECORD_KINDS, type RecordKind } from '#core/records/kinds.ts'
import { instant, oneOf } from './columns.ts'
import { person } from './people.ts'

// The record book: customers, contacts, deals and prices.

/** Customers, contacts, deals and prices. */
export const record = pgTable(
  'record',
  {
    id: uuid('id').primaryKey(),
    kind: text('kind').notNull().$type<RecordKind>(),
    /** What it is called in lists; from its data. */
    name: text('name').notNull(),
    data: jsonb('data').notNull().$type<RecordData>(),
    /** The customer that a contact or deal belongs to. */
    customerId: uuid('customer_id'),
    /** Counts saved changes; a change names the version it was made from. */
    version: integer('version').notNull().default(1),
    createdAt: instant('created_at').notNull(),
    changedAt: instant('changed_at').notNull(),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
    archivedAt: instant('archived_at'),
    /** Whoever is responsible for it; null: whoever makes its agreements. */
    ownerId: uuid('owner_id').references(() => person.id),
  },
  (t) => [
    check('record_kind', oneOf(t.kind, RECORD_KINDS)),
    index('record_by_kind').on(t.kind, t.name),
    index('record_by_customer').on(t.customerId),
    index('record_by_words').using('gin', t.name.op('gin_trgm_ops')),
  ],
)

/** Fields that people have added to a kind of record. */
export const recordField = pgTable(
  'record_field',
  {
    id: uuid('id').primaryKey(),
    kind: text('kind').notNull().$type<RecordKind>(),
    name: text('name').notNull(),
    field: jsonb('field').notNull().$type<Field>(),
    position: integer('position').notNull(),
  },
  (t) => [
    unique('record_field_name').on(t.kind, t.name),
    check('record_field_kind', oneOf(t.kind, RECORD_KINDS)),
  ],
)

/** A search that somebody kept. */
export const recordView = pgTable(
  'record_view',
  {
    id: uuid('id').primaryKey(),
    kind: text('kind').notNull().$type<RecordKind>(),
    name: text('name').notNull(),
    filter: jsonb('filter').notNull().$type<RecordFilter>(),
    madeBy: uuid('made_by')
      .notNull()
      .references(() => person.id),
  },
  (t) => [unique('record_view_name').on(t.kind, t.name)],
)

/** Imports of sheets into the records, with what undoes them. */
export const recordImport = pgTable('record_import', {
  id: uuid('id').primaryKey(),
  kind: text('kind').notNull().$type<RecordKind>(),
  sheetName: text('sheet_name').notNull(),
  at: instant('at').notNull(),
  by: uuid('by')
    .notNull()
    .references(() => person.id),
  made: integer('made').notNull(),
  changed: integer('changed').notNull(),
  undoneAt: instant('undone_at'),
})

/** What an import did to each record: its data before (null: it was new), and the version the import left it at. */
export const recordImportChange = pgTable(
  'record_import_change',
  {
    importId: uuid('import_id')
      .notNull()
      .references(() => recordImport.id, { onDelete: 'cascade' }),
    recordId: uuid('record_id').notNull(),
    before: jsonb('before').$type<RecordData>(),
    version: integer('version').notNull(),
  },
  (t) => [primaryKey({ columns: [t.importId, t.recordId] })],
)
