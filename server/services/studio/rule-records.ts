import { and, asc, count, desc, eq, gte, inArray, isNotNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { LookBack, lookBackAsked, ruleRecords } from '#contract/rule.ts'
import { authorOf } from '#core/approvers/directory.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { literal } from '#core/rules/analysis/dimension.ts'
import { type AgreementFacts, changedClauses, decidedOf } from '#core/rules/agreement-facts.ts'
import type { LookBackTask, LookedBack, PastAgreement } from '#core/rules/look-back.ts'
import { namesFor } from '#core/rules/names.ts'
import type { Scope, TableInForce } from '#core/rules/table.ts'
import { isList, type Value, valueAt } from '#core/expression/values/value.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import {
  agreement,
  claim,
  edition,
  person,
  ruleEdition,
  run,
  runRow,
  sheet,
  step,
} from '#server/db/schema.ts'
import { notFound } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { directoryOf } from '#server/services/rules/directory.ts'
import { isAbout, namesOfTemplates, templatesOf } from '#server/services/rules/scopes.ts'

// Agreements that are there, as rules see them: for the record in view beside a table, and for looking back.

/** Records answered at once. */
const RECORDS = 25

/** Agreements in a scope, the newest first, each as the values that rules may read. */
export async function readRuleRecords(
  app: App,
  { scope, offset }: { readonly scope: Scope; readonly offset: number },
): Promise<v.InferOutput<typeof ruleRecords>> {
  const templates = await templatesOf(app.db, scope)
  if (!templates.length) return { total: 0, records: [] }
  const where = inArray(edition.templateId, [...templates])
  const [total] = await app.db
    .select({ agreements: count() })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(where)
  const rows = await app.db
    .select({ agreement })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(where)
    .orderBy(desc(agreement.createdAt), asc(agreement.number))
    .offset(offset)
    .limit(RECORDS)
  const names = namesFor(await namesOfTemplates(app.db, templates))
  const made = await madeOf(
    app.db,
    rows.map(({ agreement: { id } }) => id),
  )
  const records = []
  for (const { agreement: row } of rows) {
    const bundle = await bundleOf(app, row)
    const facts = factsOf(row, made.get(row.id), bundle.parts[0].content)
    const decided = decidedOf(bundle, row.data, facts, row.wording)
    const values: Record<string, string> = {}
    for (const name of names.types.keys()) {
      const value = valueAt(decided.context, name)
      if (value !== null) values[name] = written(value)
    }
    records.push({
      agreement: row.id,
      number: row.number,
      name: row.name,
      template: bundle.parts[0].content.title,
      values,
      lacking: [...names.types.keys()].filter((name) => !decided.knows(name)),
    })
  }
  return { total: total?.agreements ?? 0, records }
}

/** A value as FEEL writes it, lists and groups included. */
function written(value: Value): string {
  if (isList(value)) return `[${value.map(written).join(', ')}]`
  if (value instanceof Map)
    return `{${[...(value as ReadonlyMap<string, Value>)].map(([key, item]) => `${JSON.stringify(key)}: ${item === null ? 'null' : written(item)}`).join(', ')}}`
  return literal(value)
}

interface Made {
  readonly author: AgreementFacts['author']
  readonly from: 'sheet' | 'record'
  readonly rows: number
}

async function madeOf(db: Db, ids: readonly string[]): Promise<ReadonlyMap<string, Made>> {
  if (!ids.length) return new Map()
  const directory = await directoryOf(db)
  const rows = await db
    .select({
      id: agreement.id,
      run: run.id,
      rows: sheet.rowCount,
      by: sql<string>`coalesce(${run.createdBy}, ${agreement.createdBy})`,
    })
    .from(agreement)
    .innerJoin(claim, eq(claim.id, agreement.id))
    .leftJoin(run, eq(run.id, claim.runId))
    .leftJoin(sheet, eq(sheet.id, run.sheetId))
    .where(inArray(agreement.id, [...ids]))
  return new Map(
    rows.map(({ id, run: runId, rows: size, by }) => {
      const facts: Made = {
        author: authorOf(directory, by),
        from: runId === null ? 'record' : 'sheet',
        rows: size ?? 1,
      }
      return [id, facts]
    }),
  )
}

const factsOf = (
  { language, content }: Pick<typeof agreement.$inferSelect, 'language' | 'content'>,
  made: Made | undefined,
  published: TemplateContent,
): AgreementFacts => ({
  author: made?.author ?? { name: '', post: '', teams: [] },
  from: made?.from ?? 'record',
  rows: made?.rows ?? 1,
  language,
  changedClauses: content === null ? null : changedClauses(published.document, content.document),
})

/** Agreements looked back over at the most, the newest; and how many a thread takes at once. */
const MOST = 10_000
const AT_ONCE = 500

/** What a draft would have asked of agreements that are there, or would ask of the rows of a run, against its edition in force. */
export async function lookBackOver(
  app: App,
  tableId: string,
  { draft, run: runId, since }: v.InferOutput<typeof lookBackAsked>,
): Promise<LookBack> {
  const [published] = await app.db
    .select({ number: ruleEdition.number, content: ruleEdition.content })
    .from(ruleEdition)
    .where(eq(ruleEdition.tableId, tableId))
    .orderBy(desc(ruleEdition.number))
    .limit(1)
  const inForce: TableInForce | null = published
    ? { id: tableId, edition: published.number, table: published.content }
    : null
  const directory = await directoryOf(app.db)
  const { timeZone } = await organisationOf(app.db)
  const found = runId
    ? await rowsOfRun(app, runId, draft.scope)
    : await agreementsSince(app, draft.scope, since, timeZone)
  const next = { id: tableId, edition: (published?.number ?? 0) + 1, table: draft }
  const looked = await inThreads(
    app,
    { draft: next, inForce, directory, contents: found.contents },
    found.past,
  )
  return {
    agreements: found.told.map((each, i) => ({
      ...each,
      draft: [...looked[i]!.draft],
      inForce: [...looked[i]!.inForce],
      problem: looked[i]!.problem,
    })),
    pace: await paceOf(app.db),
    more: found.more,
  }
}

interface Found {
  readonly contents: readonly (readonly TemplateContent[])[]
  readonly past: readonly PastAgreement[]
  readonly told: readonly {
    readonly id: string
    readonly number: string
    readonly name: string
    readonly week: string
  }[]
  readonly more: number
}

async function agreementsSince(
  app: App,
  scope: Scope,
  since: string | null,
  timeZone: string,
): Promise<Found> {
  const { db } = app
  const templates = await templatesOf(db, scope)
  if (!templates.length) return { contents: [], past: [], told: [], more: 0 }
  const where = and(
    inArray(edition.templateId, [...templates]),
    since ? gte(agreement.createdAt, new Date(`${since}T00:00:00Z`)) : undefined,
  )
  const [total] = await db
    .select({ agreements: count() })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(where)
  const rows = await db
    .select({
      id: agreement.id,
      number: agreement.number,
      name: agreement.name,
      data: agreement.data,
      wording: agreement.wording,
      language: agreement.language,
      content: agreement.content,
      editionId: agreement.editionId,
      packetEditions: agreement.packetEditions,
      createdAt: agreement.createdAt,
    })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(where)
    .orderBy(desc(agreement.createdAt), asc(agreement.number))
    .limit(MOST)
  const made = await madeOf(
    db,
    rows.map(({ id }) => id),
  )
  const editions = new Map<string, number>()
  const contents: (readonly TemplateContent[])[] = []
  const past: PastAgreement[] = []
  for (const row of rows) {
    const ids = row.packetEditions.length ? row.packetEditions : [row.editionId]
    const key = ids.join(' ')
    if (!editions.has(key)) {
      editions.set(key, contents.length)
      const loaded = await db.select().from(edition).where(inArray(edition.id, ids))
      contents.push(ids.map((id) => loaded.find((each) => each.id === id)!.content))
    }
    const at = editions.get(key)!
    past.push({
      made: at,
      data: row.data,
      wording: row.wording,
      facts: factsOf(row, made.get(row.id), contents[at]![0]!),
    })
  }
  return {
    contents,
    past,
    told: rows.map(({ id, number, name, createdAt }) => ({
      id,
      number,
      name,
      week: mondayOf(dayIn(timeZone, createdAt)),
    })),
    more: Math.max(0, (total?.agreements ?? 0) - rows.length),
  }
}

/** The Monday of a day's week (ISO 8601 weeks). */
function mondayOf(day: string): string {
  const at = new Date(`${day}T00:00:00Z`)
  at.setUTCDate(at.getUTCDate() - ((at.getUTCDay() + 6) % 7))
  return at.toISOString().slice(0, 10)
}

async function rowsOfRun(app: App, runId: string, scope: Scope): Promise<Found> {
  const [found] = await app.db
    .select({ run, rows: sheet.rowCount })
    .from(run)
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .where(eq(run.id, runId))
  if (!found) throw notFound('run')
  const ids = found.run.packetEditions.length ? found.run.packetEditions : [found.run.editionId]
  const loaded = await app.db.select().from(edition).where(inArray(edition.id, ids))
  const contents = ids.map((id) => loaded.find((each) => each.id === id)!)
  if (
    !(await isAbout(
      app.db,
      scope,
      contents.map(({ templateId }) => templateId),
    ))
  )
    return { contents: [], past: [], told: [], more: 0 }
  const author = authorOf(await directoryOf(app.db), found.run.createdBy)
  const rows = await app.db
    .select()
    .from(runRow)
    .where(and(eq(runRow.runId, runId), inArray(runRow.state, ['ready', 'made', 'needs a hand', 'failed'])))
    .orderBy(asc(runRow.row))
    .limit(MOST)
  const { timeZone } = await organisationOf(app.db)
  const week = mondayOf(dayIn(timeZone, app.now()))
  return {
    contents: [contents.map(({ content }) => content)],
    past: rows.map(({ data, wording, language }) => ({
      made: 0,
      data,
      wording,
      facts: {
        author,
        from: 'sheet',
        rows: found.rows,
        language,
        changedClauses: null,
      },
    })),
    told: rows.map(({ row, label }) => ({ id: `row ${row}`, number: `Row ${row}`, name: label, week })),
    more: 0,
  }
}

/** All threads at once, each some at a time. */
async function inThreads(
  { pages }: App,
  task: Omit<LookBackTask, 'agreements'>,
  past: readonly PastAgreement[],
): Promise<readonly LookedBack[]> {
  const looked: (readonly LookedBack[])[] = []
  let next = 0
  const lane = async () => {
    for (let at = next++; at * AT_ONCE < past.length; at = next++)
      looked[at] = await pages.lookBack({ ...task, agreements: past.slice(at * AT_ONCE, (at + 1) * AT_ONCE) })
  }
  await Promise.all(Array.from({ length: pages.threads }, lane))
  return looked.flat()
}

/** Days that approvals took, by approver: the median (quantile type 7) of what was decided by a person. */
async function paceOf(db: Db): Promise<LookBack['pace']> {
  const rows = await db
    .select({
      approver: step.approver,
      days: sql<number>`percentile_cont(0.5) within group (order by extract(epoch from ${step.decidedAt} - ${step.since}) / 86400)::float8`,
      decided: count(),
    })
    .from(step)
    .innerJoin(person, eq(person.id, step.decidedBy))
    .where(and(isNotNull(step.decidedAt), sql`${step.keptFrom} is null`))
    .groupBy(step.approver)
    .orderBy(asc(step.approver))
  return rows.map(({ approver, days, decided }) => ({ approver, days: Math.round(days * 10) / 10, decided }))
}
