import { and, eq, inArray, isNull, lte, ne, notInArray, sql } from 'drizzle-orm'
import type { SQL } from 'drizzle-orm'
import { isEnded } from '#core/agreement/states.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { readGroup } from '#core/mapping/apply.ts'
import type { RowProblem, SourceRow } from '#core/mapping/apply.ts'
import type { Bundle } from '#core/packet/bundle.ts'
import { bundleFields, mergeBundle, routeBundle } from '#core/packet/bundle.ts'
import type { Outline, RecordData } from '#core/outline/field.ts'
import type { Rule } from '#core/routing/route.ts'
import { duplicateProblems } from '#core/run/duplicates.ts'
import type { LiveAgreement } from '#core/run/duplicates.ts'
import { groupRows } from '#core/run/group.ts'
import { readAddresses, readLanguage } from '#core/run/row-extras.ts'
import { compileRule, ruledOut } from '#core/run/rule.ts'
import type { RunSetup } from '#core/run/setup.ts'
import { cellText } from '#core/sheet/cell.ts'
import type { Column } from '#core/sheet/columns.ts'
import type { App } from '#server/app.ts'
import { rowsOf } from '#server/db/bulk.ts'
import type { Db } from '#server/db/connect.ts'
import {
  agreement,
  agreementNumber,
  edition,
  person,
  run,
  runFile,
  runRow,
  sheet,
} from '#server/db/schema.ts'
import type { ExtraFile } from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import type { Work } from '#server/db/transaction.ts'
import { bundleOfRun, senderOf } from './editions.ts'
import { labelField, rowLabel } from './row-label.ts'
import { activeRules } from './rules.ts'
import { allRows } from './sheets.ts'

type Run = typeof run.$inferSelect
type Row = typeof runRow.$inferSelect
type NewRow = typeof runRow.$inferInsert

/**
 * What rows are read from has changed: the runs of the sheet check them again. A run that is being made goes on with the
 * rows as they were checked, and checks at its end.
 */
export async function checkAgain({ db, enqueue }: Work, sheetId: string): Promise<void> {
  const runs = await db
    .update(run)
    .set({ version: sql`${run.version} + 1` })
    .where(eq(run.sheetId, sheetId))
    .returning({ id: run.id, state: run.state })
  for (const { id, state } of runs) await askForCheck({ db, enqueue }, id, state)
}

/** Puts a run whose version has been raised to check. */
export async function askForCheck({ db, enqueue }: Work, id: string, state: Run['state']): Promise<void> {
  if (state === 'generating') return
  if (state === 'checked' || state === 'failed')
    await db.update(run).set({ state: 'checking', problem: null }).where(eq(run.id, id))
  await enqueue('check-run', { runId: id })
}

/** Rows of a source up to which a change is checked while its sender waits; longer ones are left to a worker. */
const CHECKED_AT_ONCE = 1000
const RUNS_AT_ONCE = 3

/** Checks runs that a change has just put to check, where that is short; the job that was asked for then finds it done. */
export async function checkAtOnce(app: App, where: SQL): Promise<void> {
  const waiting = await app.db
    .select({ id: run.id })
    .from(run)
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .where(and(where, eq(run.state, 'checking'), lte(sheet.rowCount, CHECKED_AT_ONCE)))
    .limit(RUNS_AT_ONCE)
  for (const { id } of waiting) await checkRun(app, id)
}

/** Job: reads and checks every row of a run. Doing it again gives the same rows; what was made stays as it was made. */
export async function checkRun(app: App, runId: string): Promise<void> {
  const [found] = await app.db.select().from(run).where(eq(run.id, runId))
  if (!found || found.state === 'generating') return
  if (found.checkedVersion === found.version && found.state !== 'checking') return
  const read = await readRows(app, found)
  await transaction(app, async (work) => {
    const { db, enqueue } = work
    const [now] = await db
      .select({ state: run.state, version: run.version })
      .from(run)
      .where(eq(run.id, runId))
      .for('update')
    // Another change came in between: the check that was asked for then gives its rows.
    if (!now || now.state === 'generating' || now.version !== found.version) return
    const state = now.state === 'checking' || now.state === 'failed' ? 'checked' : now.state
    if (!read.ok) {
      await db
        .update(run)
        .set({ state: 'failed', problem: read.problem, checkedVersion: now.version })
        .where(eq(run.id, runId))
      return
    }
    await keepRows(db, runId, read.rows)
    await db.update(run).set({ state, problem: null, checkedVersion: now.version }).where(eq(run.id, runId))
    if (state === 'checked') await enqueue('measure-run', { runId })
  })
}

async function keepRows(db: Db, runId: string, rows: readonly NewRow[]): Promise<void> {
  const kept = rows.map(({ row }) => row)
  const numbered = db
    .select({ row: agreementNumber.row })
    .from(agreementNumber)
    .where(eq(agreementNumber.runId, runId))
  const gone = and(eq(runRow.runId, runId), kept.length ? notInArray(runRow.row, kept) : undefined)
  await db.delete(runRow).where(and(gone, notInArray(runRow.row, numbered)))
  // A row that has its number keeps it, so that no number is lost.
  await db
    .update(runRow)
    .set({ state: 'skipped', problems: [{ field: '', column: null, message: GONE, kind: 'left out' }] })
    .where(and(gone, ne(runRow.state, 'made')))
  for (let from = 0; from < rows.length; from += KEPT_AT_ONCE) {
    const some = rows.slice(from, from + KEPT_AT_ONCE).map((row) => ({ answers: {}, ...row }))
    await db.execute(
      sql`insert into ${runRow} ${rowsOf(runRow, some)} on conflict (run_id, row) do update set ${overwritten}`,
    )
  }
}

const GONE = 'This row is not in the source any more.'

const KEPT_AT_ONCE = 1000

/** What a check gives anew; answers and decisions are people's, and stay. */
const overwritten = sql.raw(
  [
    'source_rows',
    'label',
    'state',
    'data',
    'problems',
    'wording',
    'approvals',
    'people',
    'changed',
    'language',
    'copies',
    'extra',
    'pages',
    'overflow',
    'record_id',
  ]
    .map((column) => `${column} = excluded.${column}`)
    .join(', '),
)

type Checked =
  { readonly ok: true; readonly rows: readonly NewRow[] } | { readonly ok: false; readonly problem: string }

interface Checking {
  readonly run: Run
  readonly setup: RunSetup
  readonly columns: readonly Column[]
  readonly rules: readonly Rule[]
  readonly files: ReadonlyMap<string, ExtraFile>
  readonly sender: (content: TemplateContent) => RecordData
  readonly readyIn: (language: string | null) => Promise<Ready>
  /** The rows as the last check left them, by their numbers. */
  readonly before: ReadonlyMap<number, Row>
}

/** What rows of one language are read and merged by. */
interface Ready {
  readonly bundle: Awaited<ReturnType<typeof bundleOfRun>>
  readonly fields: Outline
}

/** After so many rows the event loop has its turn: a check of thousands holds nothing else up. */
const TURN = 25

async function readRows(app: App, found: Run): Promise<Checked> {
  const { setup } = found
  const [{ columns } = { columns: [] }] = await app.db
    .select({ columns: sheet.columns })
    .from(sheet)
    .where(eq(sheet.id, found.sheetId))
  const rule = setup.rule ? compileRule(setup.rule, columns) : null
  if (rule && !rule.ok)
    return { ok: false, problem: `The row rule does not fit the columns: ${rule.problem}` }
  const [sender] = await app.db.select().from(person).where(eq(person.id, found.createdBy))
  const files = await app.db.select().from(runFile).where(eq(runFile.runId, found.id))
  const rows = await app.db.select().from(runRow).where(eq(runRow.runId, found.id))
  const ready = new Map<string | null, Promise<Ready>>()
  const load = async (language: string | null): Promise<Ready> => {
    const bundle = await bundleOfRun(app, found, language)
    return { bundle, fields: bundleFields(bundle) }
  }
  const checking: Checking = {
    run: found,
    setup,
    columns,
    rules: await activeRules(app.db),
    files: new Map(files.map(({ name, sha256 }) => [name.toLowerCase(), { name, sha256 }])),
    sender: (content) => (sender ? senderOf(content, sender) : {}),
    readyIn: (language) => {
      const known = ready.get(language) ?? load(language)
      ready.set(language, known)
      return known
    },
    before: new Map(rows.map((row) => [row.row, row])),
  }
  const source = await allRows(app.db, found.sheetId)
  const taken: typeof source = []
  const skipped: NewRow[] = []
  for (const row of source) {
    const why = rule ? ruledOut(rule, columns, row.cells) : null
    if (why === null) taken.push(row)
    else skipped.push({ ...emptyRow(found.id, row), problems: [leftOut(why)] })
  }
  const checked: NewRow[] = []
  for (const [i, group] of groupRows(columns, setup.groupBy, taken).entries()) {
    checked.push(await checkGroup(checking, group))
    if (i % TURN === TURN - 1) await new Promise((resolve) => setImmediate(resolve))
  }
  const asked = setup.duplicates === 'ask' ? await askAboutDuplicates(app, checking, checked) : checked
  return { ok: true, rows: [...asked, ...skipped].map((row) => asMade(row, checking.before.get(row.row))) }
}

const leftOut = (message: string): RowProblem => ({ field: '', column: null, message, kind: 'left out' })

type Source = SourceRow & { readonly recordId: string | null }

const emptyRow = (runId: string, { row, cells, recordId }: Source): NewRow => ({
  runId,
  row,
  sourceRows: [row],
  label: cells.map(cellText).find((text) => text.trim() !== '') ?? `Row ${row}`,
  state: 'skipped',
  data: {},
  problems: [],
  wording: '',
  approvals: [],
  people: [],
  changed: null,
  language: null,
  copies: [],
  extra: [],
  pages: null,
  overflow: [],
  recordId,
})

async function checkGroup(checking: Checking, group: readonly Source[]): Promise<NewRow> {
  const { setup, columns, rules } = checking
  const [first] = group
  const before = checking.before.get(first!.row)
  const extras = readExtras(checking, group)
  const { bundle, fields } = await checking.readyIn(extras.language)
  const read = readGroup(fields, columns, checking.run.mapping, group, {
    values: { ...setup.values, ...before?.answers },
    asked: setup.askRows,
  })
  const { content } = bundle.parts[0]
  const data: RecordData = Object.assign(
    { ...read.data },
    ...bundle.parts.map((part) => checking.sender(part.content)),
  ) as RecordData
  const merged = mergeBundle(bundle, data, null)
  const routed = routeBundle(bundle, rules, data)
  const problems = [...withoutFollowing(bundle, [...read.problems, ...extras.problems], merged.problems)]
  if (!routed.ok && problems.length === 0) problems.push({ field: '', column: null, message: routed.problem })
  const kept = before && sameData(before.data, data) && before.language === extras.language
  const decidedOut = before?.decision === 'leave out'
  return {
    ...emptyRow(checking.run.id, first!),
    sourceRows: group.map(({ row }) => row),
    label: rowLabel(content, data, first!.row),
    state: decidedOut ? 'skipped' : problems.length ? 'needs a hand' : 'ready',
    data,
    problems: decidedOut ? [leftOut('Left out by hand.')] : problems,
    wording: merged.wording,
    approvals: routed.ok ? routed.steps.map(({ approver, reason }) => ({ approver, reason })) : [],
    people: merged.people.map(({ label, name, email, order }) => ({ label, name, email, order })),
    language: extras.language,
    copies: [...extras.copies],
    extra: extras.extra,
    pages: kept ? before.pages : null,
    overflow: kept ? before.overflow : [],
  }
}

/** What the row says of language, copies and the file that goes along. */
function readExtras({ setup, columns, files }: Checking, group: readonly Source[]) {
  const problems: RowProblem[] = []
  const textOf = (column: string | null): string => {
    const at = columns.findIndex(({ name }) => name === column)
    return at < 0
      ? ''
      : (group.map(({ cells }) => cellText(cells[at] ?? null).trim()).find((text) => text !== '') ?? '')
  }
  const say = (column: string | null, message: string, kind: 'value' | 'file' = 'value') =>
    problems.push({ field: '', column, message, kind })
  const language = textOf(setup.languageColumn)
  const tag = language ? readLanguage(language) : null
  if (language && !tag) say(setup.languageColumn, `“${language}” is none of the languages known here.`)
  const copies = readAddresses(textOf(setup.copiesColumn))
  if (!copies.ok) say(setup.copiesColumn, copies.problem)
  const wanted = textOf(setup.fileColumn)
  const file = wanted ? files.get(wanted.toLowerCase()) : undefined
  if (wanted && !file)
    say(setup.fileColumn, `The file “${wanted}” has not been uploaded to this run.`, 'file')
  return {
    language: tag,
    copies: copies.ok ? copies.addresses : [],
    extra: file ? [file] : [],
    problems,
  }
}

/** What follows from a value already told as missing or wrong would only repeat it. */
function withoutFollowing(
  bundle: Bundle,
  found: readonly RowProblem[],
  more: ReturnType<typeof mergeBundle>['problems'],
): readonly RowProblem[] {
  const told = new Set(found.map(({ field }) => field))
  const problems = [...found]
  for (const { field, block, message } of more) {
    if (problems.some((problem) => problem.message === message)) continue
    const needs =
      field !== null
        ? [field]
        : block !== null
          ? bundle.parts.flatMap((part) => part.conditions.get(block)?.reads ?? [])
          : []
    if (!needs.some((name) => bundle.parts.some((part) => dependsOn(part, name, told))))
      problems.push({ field: field ?? '', column: null, message })
  }
  return problems
}

/** Whether a field is one of those named, or is computed from one of them, over however many steps. */
const dependsOn = (ready: Bundle['parts'][0], name: string, named: ReadonlySet<string>): boolean =>
  named.has(name) ||
  (ready.outline.computed
    .find(({ field }) => field.name === name)
    ?.reads.some((read) => dependsOn(ready, read, named)) ??
    false)

const sameData = (a: RecordData, b: RecordData): boolean =>
  JSON.stringify(sorted(a)) === JSON.stringify(sorted(b))
const sorted = (data: RecordData) => Object.entries(data).sort(([a], [b]) => (a < b ? -1 : 1))

/** A row that has been made stays as it was made; what its source says now stands beside it. */
function asMade(row: NewRow, before: Row | undefined): NewRow {
  if (before?.state === 'failed' && row.state === 'ready' && sameData(before.data, row.data))
    return { ...row, state: 'failed', problems: before.problems }
  if (before?.state !== 'made') return row
  const differs = row.state !== 'skipped' && !sameData(before.data, row.data)
  return {
    ...before,
    sourceRows: row.sourceRows,
    changed: differs ? row.data : null,
    problems: differs ? (row.problems ?? []).filter(({ kind }) => kind !== 'twice' && kind !== 'live') : [],
  }
}

/** Rows of a customer that is there twice or has a live agreement ask somebody first, unless somebody has answered. */
async function askAboutDuplicates(
  app: App,
  { run: found, setup, readyIn, before }: Checking,
  rows: readonly NewRow[],
): Promise<readonly NewRow[]> {
  const { bundle } = await readyIn(null)
  const field = setup.sameBy ?? labelField(bundle.parts[0].content)
  if (!field) return rows
  const problems = duplicateProblems(
    rows.filter(({ state }) => state !== 'skipped'),
    await liveAgreements(app, found, bundle.editions[0]!.templateId, field),
    field,
  )
  return rows.map((row) => {
    const more = before.get(row.row)?.decision === 'make' ? undefined : problems.get(row.row)
    return more && row.state !== 'skipped'
      ? { ...row, state: 'needs a hand' as const, problems: [...(row.problems ?? []), ...more] }
      : row
  })
}

async function liveAgreements(
  app: App,
  found: Run,
  templateId: string,
  field: string,
): Promise<readonly LiveAgreement[]> {
  const rows = await app.db
    .select({
      number: agreement.number,
      state: agreement.state,
      value: sql<string | null>`${agreement.data}->>${field}`,
    })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(and(eq(edition.templateId, templateId), ne(agreement.runId, found.id)))
  return rows
    .filter(({ state }) => !isEnded(state))
    .map(({ number, state, value }) => ({ number, state, data: value === null ? {} : { [field]: value } }))
}

/** Rows of a run whose pages have not been drawn for a look yet. */
export const unmeasured = (app: App, runId: string) =>
  app.db
    .select()
    .from(runRow)
    .where(
      and(eq(runRow.runId, runId), isNull(runRow.pages), inArray(runRow.state, ['ready', 'needs a hand'])),
    )
    .orderBy(runRow.row)
