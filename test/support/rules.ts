import type { RuleTableContent } from '#contract/rule.ts'
import type { Client } from './client.ts'

/** A table over all agreements that asks an approver wherever a condition is true. */
export const rulesThat = (
  rules: readonly (readonly [condition: string, approver: string])[],
  more: Partial<RuleTableContent> = {},
): RuleTableContent => ({
  name: 'Approvals of a test',
  scope: { kind: 'all' },
  hitPolicy: 'collect',
  missing: 'ask',
  otherwise: 'nothing',
  inputs: rules.map(([expression], i) => ({ id: `in${i}`, label: '', expression })),
  outputs: [{ key: 'approver' }],
  rows: rules.map(([, approver], i) => ({
    id: `row${i}`,
    when: { [`in${i}`]: 'true' },
    then: { approver },
    note: '',
  })),
  priorities: [],
  escalateTo: '',
  ...more,
})

/** Makes a table and puts it in force; answers its id. */
export async function putInForce(client: Client, draft: RuleTableContent): Promise<string> {
  const { id } = await client.call('makeRuleTable', { body: { draft } })
  await client.call('publishRules', { params: { id }, body: { version: 1 } })
  return id
}

/** Takes all tables out of force but those named; answers which were in force. */
export async function outOfForce(client: Client, but: readonly string[] = []): Promise<readonly string[]> {
  const tables = (await client.call('rules')).filter(({ id, inForce }) => inForce && !but.includes(id))
  for (const { id } of tables)
    await client.call('setRulesInForce', { params: { id }, body: { inForce: false } })
  return tables.map(({ id }) => id)
}

/** Puts tables back in force. */
export async function backInForce(client: Client, ids: readonly string[]): Promise<void> {
  for (const id of ids) await client.call('setRulesInForce', { params: { id }, body: { inForce: true } })
}
