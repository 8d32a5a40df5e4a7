import { sql } from 'drizzle-orm'
import { check, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core'
import { OUTPUT_KINDS, type OutputKind, ROW_STATES, type RowState } from '#contract/run.ts'
import type { RowProblem } from '#core/mapping/apply.ts'
import type { Drift } from '#core/mapping/remember.ts'
import type { Mapping } from '#core/mapping/suggest.ts'
import type { RecordData } from '#core/outline/field.ts'
import type { RunSetup } from '#core/run/setup.ts'
import { RUN_STATES, type RunState } from '#core/run/states.ts'
import { OUTPUT, type OutputState } from '#core/states/all.ts'
import { held, instant, oneOf } from './columns.ts'
import { type ExtraFile, file } from './files.ts'
import { person } from './people.ts'
import { sheet } from './sheets.ts'
import { edition } from './templates.ts'

// Runs with their rows, and what is made of the whole.

/** Runs. */
export const run = pgTable(
  'run',
  {
    id: uuid('id').primaryKey(),
    name: text('name').notNull(),
    editionId: uuid('edition_id')
      .notNull()
      .references(() => edition.id),
    /** Of a packet: the editions of all its templates, in order; the first is `edition_id`. */
    packetEditions: uuid('packet_editions').array().notNull().default([]),
    sheetId: uuid('sheet_id')
      .notNull()
      .references(() => sheet.id),
    mapping: jsonb('mapping').notNull().$type<Mapping>(),
    setup: jsonb('setup').notNull().$type<RunSetup>(),
    /** Columns that went by another name when the run was set up. */
    drift: jsonb('drift').notNull().default([]).$type<readonly Drift[]>(),
    /** Counts changes of what the rows are read from; a check that began before the last one is void. */
    version: integer('version').notNull().default(1),
    /** The version that the rows were last checked in. */
    checkedVersion: integer('checked_version').notNull().default(0),
    state: text('state').notNull().$type<RunState>(),
    problem: text('problem'),
    createdAt: instant('created_at').notNull(),
    createdBy: uuid('created_by')
      .notNull()
      .references(() => person.id),
    /** Whoever started it, or changed its set-up or rows since. */
    shapedBy: uuid('shaped_by').array().notNull().default([]),
    /** Whoever had its agreements made last. */
    generatedBy: uuid('generated_by').references(() => person.id),
    /**
     * While only agreements are made again whose source has changed: the state to go back to. The rows that nobody has
     * made yet stay unmade.
     */
    redoneFrom: text('redone_from').$type<RunState>(),
    generateStartedAt: instant('generate_started_at'),
    generateEndedAt: instant('generate_ended_at'),
    /** By whom it is being checked. */
    ...held,
  },
  (t) => [check('run_state', oneOf(t.state, RUN_STATES)), index('run_by_sheet').on(t.sheetId)],
)

/** Who signs a row’s agreement. */
export interface RowPerson {
  readonly label: string
  readonly name: string
  readonly email: string
  readonly order: number
}

/** The rows of a run. */
export const runRow = pgTable(
  'run_row',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id, { onDelete: 'cascade' }),
    /** The row's number in the source; of a group, that of its first row. */
    row: integer('row').notNull(),
    /** All rows of the source that it is made from. */
    sourceRows: integer('source_rows').array().notNull(),
    label: text('label').notNull(),
    state: text('state').notNull().$type<RowState>(),
    data: jsonb('data').notNull().$type<RecordData>(),
    problems: jsonb('problems').notNull().$type<readonly RowProblem[]>(),
    wording: text('wording').notNull(),
    /** Approvals its rules ask for, in words; told before anything is made. */
    approvals: jsonb('approvals').notNull().$type<readonly { approver: string; reason: string }[]>(),
    people: jsonb('people').notNull().default([]).$type<readonly RowPerson[]>(),
    /** Values asked for row by row, as typed. */
    answers: jsonb('answers').notNull().default({}).$type<Readonly<Record<string, string>>>(),
    /** What somebody decided of a row that was asked about. */
    decision: text('decision').$type<'make' | 'leave out'>(),
    /** Of a row that was made: its data as the source gives it now, where that differs. */
    changed: jsonb('changed').$type<RecordData>(),
    language: text('language'),
    copies: text('copies').array().notNull().default([]),
    extra: jsonb('extra').notNull().default([]).$type<readonly ExtraFile[]>(),
    /** Pages and overflow as its proof was drawn; null until then. */
    pages: integer('pages'),
    overflow: jsonb('overflow')
      .notNull()
      .default([])
      .$type<readonly { where: string; text: string; alone?: true | undefined }[]>(),
    recordId: uuid('record_id'),
    ...held,
  },
  (t) => [
    primaryKey({ columns: [t.runId, t.row] }),
    check('run_row_state', oneOf(t.state, ROW_STATES)),
    index('run_row_by_state').on(t.runId, t.state),
  ],
)

/**
 * Rows as a check gives them, by the names of their columns, until they take the place of the former ones. Not logged: what a
 * crash takes of it is checked again.
 */
export const checkedRow = pgTable(
  'checked_row',
  {
    checkId: uuid('check_id').notNull(),
    runId: uuid('run_id').notNull(),
    row: integer('row').notNull(),
    said: jsonb('said').notNull(),
  },
  (t) => [primaryKey({ columns: [t.checkId, t.row] }), index('checked_row_run').on(t.runId)],
)

/** Who has read a wording of a run. */
export const wordingRead = pgTable(
  'wording_read',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id, { onDelete: 'cascade' }),
    wording: text('wording').notNull(),
    readBy: uuid('read_by')
      .notNull()
      .references(() => person.id),
    readAt: instant('read_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.runId, t.wording] })],
)

/** Files uploaded to a run that go along with its rows, by the name the rows know them by. */
export const runFile = pgTable(
  'run_file',
  {
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id, { onDelete: 'cascade' }),
    name: text('name').notNull(),
    sha256: text('sha256')
      .notNull()
      .references(() => file.sha256),
  },
  (t) => [primaryKey({ columns: [t.runId, t.name] })],
)

/** Something made of a whole run: an archive, one combined document, a trial, a result sheet. */
export const runOutput = pgTable(
  'run_output',
  {
    id: uuid('id').primaryKey(),
    runId: uuid('run_id')
      .notNull()
      .references(() => run.id, { onDelete: 'cascade' }),
    kind: text('kind').notNull().$type<OutputKind>(),
    state: text('state').notNull().$type<OutputState>(),
    done: integer('done').notNull().default(0),
    total: integer('total').notNull().default(0),
    name: text('name').notNull(),
    fileSha256: text('file_sha256').references(() => file.sha256),
    problem: text('problem'),
    createdAt: instant('created_at').notNull(),
    createdBy: uuid('created_by')
      .notNull()
      .references(() => person.id),
    /** SHA-256 of the token in the share link; the token itself is shown once. */
    tokenHash: text('token_hash').unique(),
    expiresAt: instant('expires_at'),
  },
  (t) => [
    check('run_output_kind', oneOf(t.kind, OUTPUT_KINDS)),
    check('run_output_state', oneOf(t.state, OUTPUT.states)),
    check('run_output_file', sql`${t.state} <> 'ready' or ${t.fileSha256} is not null`),
    index('run_output_by_run').on(t.runId),
  ],
)
