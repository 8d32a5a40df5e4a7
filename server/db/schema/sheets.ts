import { integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import type { Mapping } from '#core/mapping/suggest.ts'
import type { Cell, CellRow } from '#core/outline/cell.ts'
import type { Column, Said } from '#core/sheet/columns.ts'
import type { Book, NamedRange, Reading } from '#core/sheet/book.ts'
import { instant } from './columns.ts'
import { file } from './files.ts'
import { person } from './people.ts'
import { template } from './templates.ts'

// Sheets with their rows, and which of their columns feed which fields.

/** Uploaded sheets. */
export const sheet = pgTable('sheet', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  /** Null where the rows were taken from the record book. */
  fileSha256: text('file_sha256').references(() => file.sha256),
  kind: text('kind').notNull().default('text').$type<Book['kind'] | 'records'>(),
  /** How the file is read, guesses included, and what else in it there is to choose from. */
  reading: jsonb('reading').$type<Reading>(),
  tables: jsonb('tables').notNull().default([]).$type<readonly { name: string; rows: number }[]>(),
  names: jsonb('names').notNull().default([]).$type<readonly NamedRange[]>(),
  notes: jsonb('notes').notNull().default([]).$type<readonly string[]>(),
  /** The first row of column names, counted from 1 as the spreadsheet counts. */
  headerRow: integer('header_row').notNull(),
  columns: jsonb('columns').notNull().$type<readonly Column[]>(),
  /** What somebody said of columns, by name. */
  said: jsonb('said').notNull().default({}).$type<Readonly<Record<string, Said>>>(),
  rowCount: integer('row_count').notNull(),
  uploadedAt: instant('uploaded_at').notNull(),
  uploadedBy: uuid('uploaded_by')
    .notNull()
    .references(() => person.id),
})

/** Their rows. */
export const sheetRow = pgTable(
  'sheet_row',
  {
    sheetId: uuid('sheet_id')
      .notNull()
      .references(() => sheet.id, { onDelete: 'cascade' }),
    /** As the spreadsheet counts. */
    row: integer('row').notNull(),
    cells: jsonb('cells').notNull().$type<CellRow>(),
    /** Why the row is not taken as data; null for one that is. */
    aside: text('aside'),
    /** What stood in cells that were mended here, by the column's place from 0. */
    mended: jsonb('mended').notNull().default({}).$type<Readonly<Record<string, Cell>>>(),
    recordId: uuid('record_id'),
  },
  (t) => [primaryKey({ columns: [t.sheetId, t.row] })],
)

/** Which columns feed which fields of a template. */
export const mapping = pgTable(
  'mapping',
  {
    sheetId: uuid('sheet_id')
      .notNull()
      .references(() => sheet.id, { onDelete: 'cascade' }),
    templateId: uuid('template_id')
      .notNull()
      .references(() => template.id),
    columns: jsonb('columns').notNull().$type<Mapping>(),
  },
  (t) => [primaryKey({ columns: [t.sheetId, t.templateId] })],
)

/** Mappings as they were last used, by template and the names of the source's columns. */
export const mappingMemory = pgTable(
  'mapping_memory',
  {
    templateId: uuid('template_id')
      .notNull()
      .references(() => template.id, { onDelete: 'cascade' }),
    /** SHA-256 over the column names. */
    shape: text('shape').notNull(),
    columnNames: text('column_names').array().notNull(),
    columns: jsonb('columns').notNull().$type<Mapping>(),
    usedAt: instant('used_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.templateId, t.shape] })],
)
