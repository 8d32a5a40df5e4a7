import { randomUUID } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import { and, asc, desc, eq, max, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { ruleCaseChange, ruleNamesSchema, RuleTableAnswer, RuleTableContent } from '#contract/rule.ts'
import { runRuleCase } from '#core/rules/cases.ts'
import { tableFaults } from '#core/rules/faults.ts'
import { namesFor } from '#core/rules/names.ts'
import type { RuleTable, Scope } from '#core/rules/table.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, person, ruleCase, ruleEdition, ruleTable, step } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { directoryOf } from './directory.ts'
import { allScopes, namesOfTemplates, templatesOf } from './scopes.ts'

const mutable = (table: RuleTable): RuleTableContent => structuredClone(table) as RuleTableContent

/** Tables by name. */
export async function listTables(app: App) {
  const latest = app.db
    .selectDistinctOn([ruleEdition.tableId])
    .from(ruleEdition)
    .orderBy(ruleEdition.tableId, desc(ruleEdition.number))
    .as('latest')
  const rows = await app.db
    .select({ table: ruleTable, changedBy: person.name, edition: latest.number, content: latest.content })
    .from(ruleTable)
    .innerJoin(person, eq(person.id, ruleTable.changedBy))
    .leftJoin(latest, eq(latest.tableId, ruleTable.id))
  const scopes = await allScopes(app.db)
  return rows
    .map(({ table: { id, draft, inForce, changedAt }, changedBy, edition, content }) => ({
      id,
      name: draft.name,
      scope: scopeName(draft.scope, scopes),
      rows: draft.rows.length,
      hitPolicy: draft.hitPolicy,
      edition,
      inForce,
      draftDiffers: !isDeepStrictEqual(content, draft),
      changedAt: changedAt.toISOString(),
      changedBy,
    }))
    .sort((a, b) => a.name.localeCompare(b.name))
}

function scopeName(scope: Scope, scopes: Awaited<ReturnType<typeof allScopes>>): string {
  if (scope.kind === 'all') return 'All agreements'
  const found = scopes.find(({ kind, id }) => kind === scope.kind && id === scope.id)
  return found?.name ?? 'Nothing that is there any more'
}

async function tableRow(db: Db, id: string) {
  const [found] = await db.select().from(ruleTable).where(eq(ruleTable.id, id))
  if (!found) throw notFound('rule table')
  return found
}

/** A rule table with its draft, cases and editions. */
export async function readTable(app: App, id: string): Promise<RuleTableAnswer> {
  const { draft, draftVersion, inForce } = await tableRow(app.db, id)
  const editions = await app.db
    .select({ edition: ruleEdition, by: person.name })
    .from(ruleEdition)
    .innerJoin(person, eq(person.id, ruleEdition.publishedBy))
    .where(eq(ruleEdition.tableId, id))
    .orderBy(desc(ruleEdition.number))
  const [onTheirWay] = await app.db
    .select({ agreements: sql<number>`count(distinct ${agreement.id})::int` })
    .from(agreement)
    .innerJoin(step, and(eq(step.agreementId, agreement.id), eq(step.revision, agreement.revision)))
    .where(
      and(
        eq(agreement.state, 'in approval'),
        sql`${step.reasons} @> ${JSON.stringify([{ table: id }])}::jsonb`,
      ),
    )
  return {
    id,
    draft: mutable(draft),
    version: draftVersion,
    inForce,
    draftDiffers: !isDeepStrictEqual(editions[0]?.edition.content, draft),
    editions: editions.map(({ edition: { number, publishedAt, note }, by }) => ({
      number,
      publishedAt: publishedAt.toISOString(),
      publishedBy: by,
      note,
    })),
    cases: await casesOf(app.db, id),
    onTheirWay: onTheirWay?.agreements ?? 0,
  }
}

/** What a table said as one of its editions. */
export async function readRuleEdition(app: App, id: string, number: number): Promise<RuleTableContent> {
  const [found] = await app.db
    .select()
    .from(ruleEdition)
    .where(and(eq(ruleEdition.tableId, id), eq(ruleEdition.number, number)))
  if (!found) throw notFound('edition')
  return mutable(found.content)
}

/** What a table of a scope may read, who may be named in it, and what it could be about. */
export async function readNames(app: App, scope: Scope): Promise<v.InferOutput<typeof ruleNamesSchema>> {
  const templates = await namesOfTemplates(app.db, await templatesOf(app.db, scope))
  return structuredClone({
    templates,
    directory: await directoryOf(app.db),
    scopes: await allScopes(app.db),
  }) as v.InferOutput<typeof ruleNamesSchema>
}

/** Begins a table. */
export async function makeTable(
  app: App,
  by: Person,
  draft: RuleTableContent,
  model: string | null = null,
): Promise<{ id: string }> {
  await requireMay(app, by, 'rules')
  const id = randomUUID()
  await app.db.insert(ruleTable).values({ id, draft, model, changedAt: app.now(), changedBy: by.id })
  return { id }
}

/** Saves a draft, faults and all: what is half written is kept too. */
export async function saveTable(
  app: App,
  by: Person,
  id: string,
  { version, draft }: { readonly version: number; readonly draft: RuleTableContent },
): Promise<{ version: number }> {
  await requireMay(app, by, 'rules')
  const [saved] = await app.db
    .update(ruleTable)
    .set({ draft, draftVersion: version + 1, changedAt: app.now(), changedBy: by.id })
    .where(and(eq(ruleTable.id, id), eq(ruleTable.draftVersion, version)))
    .returning({ version: ruleTable.draftVersion })
  if (saved) return saved
  await tableRow(app.db, id)
  throw conflict('Somebody changed this table after you opened it. Open it again to see the other change.')
}

/**
 * Puts the draft in force as the next edition. Refused where a cell is at fault, where no template in scope can be decided
 * about, where rows contradict each other or a hole is not allowed, and where a saved case fails. Agreements on their way
 * keep the routes that they have.
 */
export async function publishTable(
  app: App,
  by: Person,
  id: string,
  { version, note }: { readonly version: number; readonly note: string },
): Promise<{ edition: number }> {
  await requireMay(app, by, 'rules')
  const { draft, draftVersion } = await tableRow(app.db, id)
  if (draftVersion !== version)
    throw conflict('Somebody changed this table after you opened it. Open it again to see the other change.')
  await refuseFaults(app, id, draft)
  return transaction(app, async ({ db, now }) => {
    const row = one(await db.select().from(ruleTable).where(eq(ruleTable.id, id)).for('update'))
    if (row.draftVersion !== version)
      throw conflict('Somebody changed this table while it was being put in force. Look at it again.')
    const [last] = await db
      .select({ number: max(ruleEdition.number) })
      .from(ruleEdition)
      .where(eq(ruleEdition.tableId, id))
    const edition = (last?.number ?? 0) + 1
    await db.insert(ruleEdition).values({
      tableId: id,
      number: edition,
      content: draft,
      publishedAt: now(),
      publishedBy: by.id,
      note,
    })
    await db.update(ruleTable).set({ inForce: true }).where(eq(ruleTable.id, id))
    return { edition }
  })
}

async function refuseFaults(app: App, id: string, draft: RuleTable): Promise<void> {
  const templates = await namesOfTemplates(app.db, await templatesOf(app.db, draft.scope))
  if (templates.length === 0)
    throw invalid('No template is in the scope of this table: it would decide nothing.')
  const names = namesFor(templates)
  const faults = tableFaults(draft, names, await directoryOf(app.db))
  if (faults.length) {
    const pointer = ({ row, column }: (typeof faults)[number]) => `/rows/${row ?? ''}/${column ?? ''}`
    throw invalid(
      `${faults.length === 1 ? 'One cell is' : `${faults.length} cells are`} at fault. ${faults[0]!.message}`,
      faults.slice(0, 100).map((fault) => ({ pointer: pointer(fault), detail: fault.message })),
    )
  }
  const { findings } = await app.pages.analyseTable(draft, templates)
  const grave = findings.find(({ weight }) => weight === 'fault')
  if (grave) throw invalid(grave.says)
  for (const saved of await casesOf(app.db, id)) {
    const result = runRuleCase(draft, saved, names)
    if (!result.passed)
      throw invalid(
        `The case “${saved.name}” wants ${saidList(saved.expected)} and would get ${result.problem ?? saidList(result.actual)}.`,
      )
  }
}

const saidList = (all: readonly string[]): string => all.join(' and ') || 'nothing'

/** Takes a table out of force, or puts its newest edition back. */
export async function setInForce(app: App, by: Person, id: string, inForce: boolean): Promise<void> {
  await requireMay(app, by, 'rules')
  await transaction(app, async ({ db }) => {
    const { number } = (
      await db
        .select({ number: max(ruleEdition.number) })
        .from(ruleEdition)
        .where(eq(ruleEdition.tableId, id))
    )[0]!
    await tableRow(db, id)
    if (number === null) throw conflict('This table has no edition yet: it is put in force by publishing it.')
    await db.update(ruleTable).set({ inForce }).where(eq(ruleTable.id, id))
  })
}

const casesOf = async (db: Db, id: string) =>
  (await db.select().from(ruleCase).where(eq(ruleCase.tableId, id)).orderBy(asc(ruleCase.name))).map(
    ({ id: caseId, name, values, expected }) => ({
      id: caseId,
      name,
      values: { ...values },
      expected: [...expected],
    }),
  )

/** Keeps a case with what is expected of it. */
export async function keepRuleCase(
  app: App,
  by: Person,
  id: string,
  change: v.InferOutput<typeof ruleCaseChange>,
) {
  await requireMay(app, by, 'rules')
  await tableRow(app.db, id)
  const [made] = await app.db
    .insert(ruleCase)
    .values({ id: randomUUID(), tableId: id, ...change, changedAt: app.now(), changedBy: by.id })
    .onConflictDoNothing()
    .returning()
  if (!made) throw conflict(`There is a case called “${change.name}” already.`)
  return { id: made.id, name: made.name, values: { ...made.values }, expected: [...made.expected] }
}

/** Forgets a case. */
export async function dropRuleCase(app: App, by: Person, id: string, caseId: string): Promise<void> {
  await requireMay(app, by, 'rules')
  const gone = await app.db
    .delete(ruleCase)
    .where(and(eq(ruleCase.id, caseId), eq(ruleCase.tableId, id)))
    .returning({ id: ruleCase.id })
  if (!gone.length) throw notFound('case')
}
