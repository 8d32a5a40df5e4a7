import { pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import type { Right } from '#contract/person.ts'
import { instant } from './columns.ts'

// Who works here: people, their sessions and teams.

/** Who works here, or did. */
export const person = pgTable('person', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  email: text('email').notNull().unique(),
  /** The post that rule tables name, such as `operations director`. */
  post: text('post').notNull(),
  passwordHash: text('password_hash').notNull(),
  rights: text('rights').array().notNull().$type<Right[]>(),
  /** Since when they do not work here any more. */
  leftAt: instant('left_at'),
  /** Whether they hear of approvals one by one, or once a day. */
  approvalMail: text('approval_mail').notNull().default('each').$type<'each' | 'daily'>(),
})

/** Who is signed in, by the hash of their token. */
export const session = pgTable('session', {
  tokenHash: text('token_hash').primaryKey(),
  personId: uuid('person_id')
    .notNull()
    .references(() => person.id),
  expiresAt: instant('expires_at').notNull(),
})

/** Teams. */
export const team = pgTable('team', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull().unique(),
  leadId: uuid('lead_id').references(() => person.id),
})

/** Who is in which team. */
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
