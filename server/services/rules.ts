import { and, asc, eq } from 'drizzle-orm'
import { compileExpression } from '#core/expression/compile.ts'
import { nameTypes } from '#core/outline/field.ts'
import type { RecordData } from '#core/outline/field.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { templateFields } from '#core/merge/fields.ts'
import { completeRecord } from '#core/outline/record.ts'
import { wordingOf } from '#core/merge/merge.ts'
import type { ReadyTemplate } from '#core/merge/prepare.ts'
import { route } from '#core/routing/route.ts'
import type { Routed, Rule } from '#core/routing/route.ts'
import type { App } from '#server/app.ts'
import type { Db } from '#server/db/connect.ts'
import { person, ruleTable, template } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/problem.ts'

const shape = ({ id, name, version, rules }: typeof ruleTable.$inferSelect) => ({
  id,
  name,
  version,
  rules: [...rules],
})

export const listRules = async (app: App) =>
  (await app.db.select().from(ruleTable).orderBy(asc(ruleTable.name))).map(shape)

export const activeRules = async (db: Db): Promise<readonly Rule[]> =>
  (await db.select().from(ruleTable).orderBy(asc(ruleTable.name))).flatMap(({ rules }) => rules)

/** The approvals a record needs by the rules in force, the reasons in the template's own words and formats. */
export function routeRecord(rules: readonly Rule[], ready: ReadyTemplate, data: RecordData): Routed {
  const { context } = completeRecord(ready.outline, data)
  return route(
    rules.filter((rule) => concerns(rule, ready)),
    context,
    wordingOf(ready),
  )
}

/** A rule over data that a template does not have says nothing about its agreements. */
function concerns(rule: Rule, ready: ReadyTemplate): boolean {
  const compiled = compileExpression(rule.condition)
  if (!compiled.ok) return true
  return compiled.expression.reads.every(
    (name) => ready.fields.has(name) || ready.mergeable.has(name) || name.startsWith('item.'),
  )
}

/** Replaces a table's rules; each condition must be sound over the fields of the templates, each post somebody's. */
export async function saveRules(app: App, id: string, version: number, rules: readonly Rule[]) {
  const outlines = await app.db.select({ draft: template.draft }).from(template)
  const names = new Map(outlines.flatMap(({ draft }) => [...nameTypes(templateFields(draft).all)]))
  const posts = new Set((await app.db.select({ post: person.post }).from(person)).map(({ post }) => post))
  const faults = rules.flatMap((rule, i) => {
    const found = expressionFaults(rule.condition, names)
    const post = posts.has(rule.approver)
      ? []
      : [{ pointer: `/rules/${i}/approver`, detail: `Nobody holds the post “${rule.approver}”.` }]
    return [...found.map(({ message }) => ({ pointer: `/rules/${i}/condition`, detail: message })), ...post]
  })
  if (faults.length) throw invalid(faults[0]!.detail, faults)
  const [saved] = await app.db
    .update(ruleTable)
    .set({ rules, version: version + 1 })
    .where(and(eq(ruleTable.id, id), eq(ruleTable.version, version)))
    .returning()
  if (saved) return shape(saved)
  const [there] = await app.db.select().from(ruleTable).where(eq(ruleTable.id, id))
  throw there
    ? conflict('Somebody changed this table after you opened it. Open it again to see the other change.')
    : notFound('rule table')
}
