import { check, integer, jsonb, pgTable, uuid } from 'drizzle-orm/pg-core'
import { sql } from 'drizzle-orm'
import type { TemplateContent } from '#core/document/template.ts'
import { agreement } from './agreements.ts'
import { instant } from './columns.ts'
import { person } from './people.ts'
import { record } from './records.ts'

// Agreements of single files, before they are made.

/** Files that become one agreement, with what is placed on them; whoever signs is named in its roles. */
export const oneOff = pgTable(
  'one_off',
  {
    id: uuid('id').primaryKey(),
    draft: jsonb('draft').notNull().$type<TemplateContent>(),
    draftVersion: integer('draft_version').notNull().default(1),
    changedAt: instant('changed_at').notNull(),
    /** Whose it is: until it is made nobody else sees it. */
    createdBy: uuid('created_by')
      .notNull()
      .references(() => person.id),
    changedBy: uuid('changed_by')
      .notNull()
      .references(() => person.id),
    recordId: uuid('record_id').references(() => record.id),
    /** The agreement that it became. */
    agreementId: uuid('agreement_id').references(() => agreement.id),
  },
  (t) => [check('one_off_draft_version', sql`${t.draftVersion} > 0`)],
)
