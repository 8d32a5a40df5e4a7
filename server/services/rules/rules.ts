import { and, asc, eq } from 'drizzle-orm'
import { nameTypes } from '#core/outline/field.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { templateFields } from '#core/merge/fields.ts'
import { FACTS } from '#core/packet/bundle.ts'
import type { Rule } from '#core/routing/route.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { person, ruleTable, template } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'

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

/** Replaces a table's rules; each condition must be sound over the fields of the templates, each post somebody's. */
export async function saveRules(app: App, id: string, version: number, rules: readonly Rule[]) {
  const outlines = await app.db.select({ draft: template.draft }).from(template)
  const names = new Map([
    ...outlines.flatMap(({ draft }) => [...nameTypes(templateFields(draft).all)]),
    ...FACTS.map((fact) => [fact, 'boolean'] as const),
  ])
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
