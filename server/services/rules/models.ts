import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { RuleTableContent } from '#contract/rule.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { ruleTable } from '#server/db/schema.ts'
import { WorkEnded } from '#server/worker-pools/pool.ts'
import { invalid, notFound } from '#server/ground/problem.ts'
import { namesOfTemplates, templatesOf } from './scopes.ts'
import { makeTable } from './tables.ts'

// Tables from and to decision models.

/** A new table of a decision model, not in force, with what the model says beyond one. */
export async function importTable(
  app: App,
  by: Person,
  name: string,
  bytes: Uint8Array,
): Promise<{ id: string; report: string[] }> {
  await requireMay(app, by, 'rules')
  const read = await app.pages.readDmn(bytes).catch((error: unknown) => {
    if (error instanceof WorkEnded) throw invalid(`${name} takes too long to be read.`)
    throw error
  })
  if (!read.ok) throw invalid(`${name}: ${read.problem}`)
  const { id } = await makeTable(app, by, structuredClone(read.table) as RuleTableContent, read.model)
  return { id, report: [...read.report] }
}

/** A table's draft as a decision model. */
export async function exportTable(app: App, id: string): Promise<{ bytes: Uint8Array; name: string }> {
  const [found] = await app.db.select().from(ruleTable).where(eq(ruleTable.id, id))
  if (!found) throw notFound('rule table')
  const names = await namesOfTemplates(app.db, await templatesOf(app.db, found.draft.scope))
  const xml = await app.pages.writeDmn(found.draft, names, found.model)
  return { bytes: new TextEncoder().encode(xml), name: found.draft.name || 'rules' }
}
