import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { savedCaseChange, savedCaseSchema } from '#contract/studio.ts'
import { runCase } from '#core/checks/cases.ts'
import type { ReadyTemplate } from '#core/merge/prepare.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { savedCase, template } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'

type Saved = v.InferOutput<typeof savedCaseSchema>
type Change = v.InferOutput<typeof savedCaseChange>

const shape = ({ id, name, data, expected }: typeof savedCase.$inferSelect): Saved => ({
  id,
  name,
  data: structuredClone(data) as Saved['data'],
  expected: [...expected],
})

export async function listCases(app: App, templateId: string): Promise<Saved[]> {
  const [there] = await app.db.select({ id: template.id }).from(template).where(eq(template.id, templateId))
  if (!there) throw notFound('template')
  const found = await app.db
    .select()
    .from(savedCase)
    .where(eq(savedCase.templateId, templateId))
    .orderBy(asc(savedCase.name))
  return found.map(shape)
}

async function refuseTakenName(app: App, templateId: string, name: string, id: string | null): Promise<void> {
  const taken = (await listCases(app, templateId)).find((each) => each.name === name && each.id !== id)
  if (taken) throw conflict(`There is a case called “${name}” already.`)
}

export async function keepCase(app: App, by: Person, templateId: string, change: Change): Promise<Saved> {
  await requireMay(app, by, 'templates')
  await refuseTakenName(app, templateId, change.name, null)
  const made = one(
    await app.db
      .insert(savedCase)
      .values({ id: randomUUID(), templateId, ...change, changedAt: app.now(), changedBy: by.id })
      .returning(),
  )
  return shape(made)
}

export async function changeCase(
  app: App,
  by: Person,
  templateId: string,
  id: string,
  change: Change,
): Promise<Saved> {
  await requireMay(app, by, 'templates')
  await refuseTakenName(app, templateId, change.name, id)
  const [saved] = await app.db
    .update(savedCase)
    .set({ ...change, changedAt: app.now(), changedBy: by.id })
    .where(and(eq(savedCase.id, id), eq(savedCase.templateId, templateId)))
    .returning()
  if (!saved) throw notFound('case')
  return shape(saved)
}

export async function dropCase(app: App, by: Person, templateId: string, id: string): Promise<void> {
  await requireMay(app, by, 'templates')
  await app.db.delete(savedCase).where(and(eq(savedCase.id, id), eq(savedCase.templateId, templateId)))
}

/** How a template's cases stand with a wording that is about to be published. */
export async function caseResults(db: Db, templateId: string, ready: ReadyTemplate) {
  const cases = await db.select().from(savedCase).where(eq(savedCase.templateId, templateId))
  const results = cases.map((each) => runCase(ready, each))
  return {
    passed: results.filter(({ passed }) => passed).length,
    failed: results.filter(({ passed }) => !passed).map(({ name }) => name),
  }
}
