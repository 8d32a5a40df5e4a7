import { and, between, eq, sql } from 'drizzle-orm'
import { isEnded } from '#core/agreement/states.ts'
import { withBudget } from '#core/expression/values/budget.ts'
import type { RowProblem } from '#core/mapping/apply.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { FieldValue, RecordData } from '#core/outline/field.ts'
import type { CheckedGroup, RowGroup, RunTerms } from '#core/run/check.ts'
import {
  duplicateProblems,
  type KnownBy,
  type KnownRow,
  type LiveAgreement,
  repeatedRows,
} from '#core/run/duplicates.ts'
import { groupRows } from '#core/run/group.ts'
import { labelField } from '#core/run/label.ts'
import { compileRule, ruledOut } from '#core/run/rule.ts'
import { cellText } from '#core/outline/cell.ts'
import type { Column } from '#core/sheet/columns.ts'
import type { App } from '#server/app/app.ts'
import { type SharedTerms, shareTerms } from '#server/worker-pools/shared-terms.ts'
import { namedRows } from '#server/db/bulk.ts'
import type { Db } from '#server/db/connect.ts'
import {
  agreement,
  checkedRow,
  claim,
  edition,
  type ExtraFile,
  person,
  run,
  runFile,
  runRow,
  sheet,
} from '#server/db/schema.ts'
import { bundleOfRun, senderDetails } from '#server/services/templates/editions.ts'
import { knownBy } from './known-by.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { allRows, rowPages } from '#server/services/sheets/sheet-rows.ts'

type Run = typeof run.$inferSelect
type Row = typeof runRow.$inferSelect
type NewRow = typeof runRow.$inferInsert

type Checked = { readonly ok: true } | { readonly ok: false; readonly problem: string }

interface Checking {
  /** Of this check: its rows lie apart under it until they take the place of the former ones. */
  readonly id: string
  readonly run: Run
  readonly terms: RunTerms
  readonly shared: SharedTerms
  readonly files: ReadonlyMap<string, ExtraFile>
  /** What is to be asked of rows of one agreement that are the same, by the first of them. */
  readonly repeated: Map<number, readonly RowProblem[]>
}

/**
 * Reads and checks all rows of the source, under no lock, and puts them apart under this check's id. `going` is told of each lot
 * and says whether the check is still wanted.
 */
export async function checkRows(
  app: App,
  id: string,
  found: Run,
  going: () => Promise<boolean>,
): Promise<Checked> {
  const { db } = app
  const { setup } = found
  const [{ columns, rows } = { columns: [], rows: 0 }] = await db
    .select({ columns: sheet.columns, rows: sheet.rowCount })
    .from(sheet)
    .where(eq(sheet.id, found.sheetId))
  const rule = setup.rule ? compileRule(setup.rule, columns) : null
  if (rule && !rule.ok)
    return { ok: false, problem: `The row rule does not fit the columns: ${rule.problem}` }
  const bundle = await bundleOfRun(app, found)
  const [sender] = await db.select().from(person).where(eq(person.id, found.createdBy))
  const organisation = await organisationOf(db)
  const files = await db.select().from(runFile).where(eq(runFile.runId, found.id))
  const terms: RunTerms = {
    contents: bundle.parts.map(({ content }) => content),
    columns,
    mapping: found.mapping,
    setup,
    rules: await rulesFor(
      db,
      bundle.editions.map(({ templateId }) => templateId),
      { author: found.createdBy, from: 'sheet', rows },
    ),
    today: dayIn(organisation.timeZone, found.createdAt),
    sender: sender ? senderDetails(sender, organisation.name) : null,
    files: files.map(({ name }) => name),
  }
  const checking: Checking = {
    id,
    run: found,
    terms,
    shared: shareTerms(terms),
    files: new Map(files.map(({ name, sha256 }) => [name, { name, sha256 }])),
    repeated: new Map(),
  }
  const name = labelField(bundle.parts[0].content)
  const by =
    setup.duplicates === 'ask' ? (setup.sameBy ?? (await knownBy(db, found, columns, name)).by) : null
  const known: KnownRow[] = []
  let stored: Promise<void> = Promise.resolve()
  for await (const { source, before } of pagesOf(db, found)) {
    const rows = await checkPage(app, checking, source, before, rule)
    if (by) known.push(...knownRows(by, name, columns, source, rows))
    // The next rows are checked while these are written.
    await stored
    if (!(await going())) return { ok: false, problem: '' }
    stored = write(
      db,
      checking,
      rows.map((row) => asMade(row, before.get(row.row))),
    )
    stored.catch(() => undefined)
  }
  await stored
  if (by) {
    const field = 'field' in by ? by.field : name
    const live = await liveAgreements(db, found.id, bundle.editions[0]!.templateId, field)
    await askAboutDuplicates(db, checking, duplicateProblems(known, live, by))
  }
  if (setup.duplicates === 'ask') await askAboutDuplicates(db, checking, checking.repeated)
  return { ok: true }
}

async function write(db: Db, { id, run: { id: runId } }: Checking, rows: readonly NewRow[]): Promise<void> {
  const named = JSON.stringify(namedRows(runRow, rows))
  await db.execute(sql`
    insert into ${checkedRow} (check_id, run_id, row, said)
    select ${id}, ${runId}, (said->>'row')::int, said from jsonb_array_elements(${named}::jsonb) as said`)
}

/** Rows taken from the source at once. */
const PAGE = 1000

interface Page {
  readonly source: readonly Source[]
  /** What the last check made of them, by their numbers. */
  readonly before: ReadonlyMap<number, Row>
}

/** The rows of the source, some at a time; where rows are made one, all at once, for they may stand anywhere. */
async function* pagesOf(db: Db, { id, sheetId, setup }: Run): AsyncGenerator<Page> {
  const page = async (source: readonly Source[]): Promise<Page> => ({
    source,
    before: await rowsBefore(db, id, source),
  })
  if (setup.groupBy.length) {
    yield await page(await allRows(db, sheetId))
    return
  }
  yield* rowPages(db, sheetId, PAGE, page)
}

type Source = Awaited<ReturnType<typeof allRows>>[number]

/** Steps a row rule may take over a page of rows, or over all of them where rows are made one. */
const RULE_STEPS = 4_000_000

/** Groups checked by a thread at once: few, so that nobody who waits for a proof waits long. */
const GROUPS = 50

/** Rows as their source gives them now, whatever was made of them before. */
async function checkPage(
  app: App,
  checking: Checking,
  source: readonly Source[],
  before: ReadonlyMap<number, Row>,
  rule: Extract<ReturnType<typeof compileRule>, { ok: true }> | null,
): Promise<readonly NewRow[]> {
  const { terms, run: found } = checking
  const whyOut = rule
    ? withBudget(
        RULE_STEPS,
        () => new Map(source.map((row) => [row, ruledOut(rule, terms.columns, row.cells)] as const)),
      )
    : new Map<Source, string | null>()
  const taken: Source[] = []
  const skipped: NewRow[] = []
  for (const row of source) {
    const why = whyOut.get(row) ?? null
    if (why === null) taken.push(row)
    else skipped.push({ ...emptyRow(found.id, row), problems: [leftOut(why)] })
  }
  const groups = groupRows(terms.columns, terms.setup.groupBy, taken)
  for (const [row, problems] of repeatedRows(groups)) checking.repeated.set(row, problems)
  const checked = await inThreads(app, checking, groups, before)
  const rows = checked.map((each, i) => newRow(checking, each, groups[i]![0]!.recordId, before.get(each.row)))
  return [...rows, ...skipped]
}

/** These rows as the last check left them, by their numbers. */
async function rowsBefore(
  db: Db,
  runId: string,
  source: readonly Source[],
): Promise<ReadonlyMap<number, Row>> {
  const [first, last] = [source[0]?.row ?? 0, source.at(-1)?.row ?? 0]
  const rows = await db
    .select()
    .from(runRow)
    .where(and(eq(runRow.runId, runId), between(runRow.row, first, last)))
  return new Map(rows.map((row) => [row.row, row]))
}

/** Checks groups of rows in all threads, in order. */
async function inThreads(
  { pages }: App,
  { shared }: Checking,
  groups: readonly (readonly Source[])[],
  before: ReadonlyMap<number, Row>,
): Promise<readonly CheckedGroup[]> {
  const asked: RowGroup[] = groups.map((rows) => ({
    rows: rows.map(({ row, cells }) => ({ row, cells })),
    answers: before.get(rows[0]!.row)?.answers ?? {},
  }))
  const checked: (readonly CheckedGroup[])[] = []
  let next = 0
  const lane = async () => {
    for (let at = next++; at * GROUPS < asked.length; at = next++)
      checked[at] = await pages.checkRows(shared, asked.slice(at * GROUPS, (at + 1) * GROUPS))
  }
  await Promise.all(Array.from({ length: pages.threads }, lane))
  return checked.flat()
}

const leftOut = (message: string): RowProblem => ({ field: '', column: null, message, kind: 'left out' })

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
  answers: {},
  changed: null,
  language: null,
  copies: [],
  extra: [],
  pages: null,
  overflow: [],
  recordId,
})

/** A row as it was checked, with what somebody has decided of it; its proof still holds where its data are the same. */
function newRow(
  { run: found, files }: Checking,
  checked: CheckedGroup,
  recordId: string | null,
  before: Row | undefined,
): NewRow {
  const { file, problems, ...row } = checked
  const kept = before && sameData(before.data, row.data) && before.language === row.language
  const decidedOut = before?.decision === 'leave out'
  return {
    runId: found.id,
    ...row,
    sourceRows: [...row.sourceRows],
    copies: [...row.copies],
    extra: file === null ? [] : [files.get(file)!],
    state: decidedOut ? 'skipped' : problems.length ? 'needs a hand' : 'ready',
    problems: decidedOut ? [leftOut('Left out by hand.')] : problems,
    answers: {},
    changed: null,
    pages: kept ? before.pages : null,
    overflow: kept ? before.overflow : [],
    recordId,
  }
}

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
    problems: differs ? (row.problems ?? []) : [],
  }
}

/** Rows of a customer that is there twice or has a live agreement ask somebody first, unless somebody has answered. */
async function askAboutDuplicates(
  db: Db,
  { id, run: { id: runId } }: Checking,
  problems: ReadonlyMap<number, readonly RowProblem[]>,
): Promise<void> {
  if (problems.size === 0) return
  const asked = JSON.stringify([...problems].map(([row, more]) => ({ row, more })))
  await db.execute(sql`
    update ${checkedRow} as checked
    set said = said || jsonb_build_object('state', 'needs a hand', 'problems',
      case said->>'state' when 'failed' then more else (said->'problems') || more end)
    from jsonb_to_recordset(${asked}::jsonb) as asked (row integer, more jsonb)
    where checked.check_id = ${id} and checked.row = asked.row and said->>'state' not in ('skipped', 'made')
      and not exists (
        select from ${runRow} as before
        where before.run_id = ${runId} and before.row = checked.row and before.decision = 'make'
      )`)
}

/** Agreements from a template that have not ended, those of one run left out. */
export async function liveAgreements(
  db: Db,
  runId: string | null,
  templateId: string,
  field: string,
): Promise<readonly LiveAgreement[]> {
  const rows = await db
    .select({
      number: agreement.number,
      state: agreement.state,
      value: sql<string | null>`${agreement.data}->>${field}`,
    })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .innerJoin(claim, eq(claim.id, agreement.id))
    .where(
      and(
        eq(edition.templateId, templateId),
        runId === null ? undefined : sql`${claim.runId} is distinct from ${runId}`,
      ),
    )
  return rows
    .filter(({ state }) => !isEnded(state))
    .map(({ number, state, value }) => ({ number, state, said: value ?? '' }))
}

const textOf = (value: FieldValue | undefined): string =>
  value === undefined || typeof value === 'object' ? '' : String(value)

/** What each row that is taken is known by. */
function knownRows(
  by: KnownBy,
  name: string,
  columns: readonly Column[],
  source: readonly Source[],
  rows: readonly NewRow[],
): readonly KnownRow[] {
  const taken = rows.filter(({ state }) => state !== 'skipped')
  if ('field' in by) return taken.map(({ row, data }) => ({ row, said: textOf(data[by.field]) }))
  const at = columns.findIndex((column) => column.name === by.column)
  const cells = new Map(source.map((each) => [each.row, each.cells]))
  return taken.map(({ row, data }) => ({
    row,
    said: cellText(cells.get(row)?.[at] ?? null),
    named: textOf(data[name]),
  }))
}
