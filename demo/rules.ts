import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import type { RuleTableContent } from '#contract/rule.ts'
import type { RuleTable } from '#core/rules/table.ts'
import type { App } from '#server/app/app.ts'
import { absence, person, team } from '#server/db/schema.ts'
import { keepRuleCase, makeTable, publishTable } from '#server/services/rules/tables.ts'
import { today } from '#server/services/rules/directory.ts'

type Person = typeof person.$inferSelect
type Row = readonly [
  cells: Readonly<Record<string, string>>,
  then: RuleTable['rows'][number]['then'],
  note?: string,
]

const table = (
  name: string,
  inputs: readonly (readonly [id: string, expression: string, label?: string])[],
  rows: readonly Row[],
  more: Partial<RuleTable> = {},
): RuleTableContent =>
  structuredClone({
    name,
    scope: { kind: 'all' },
    hitPolicy: 'collect',
    missing: 'does not hold',
    otherwise: 'nothing',
    inputs: inputs.map(([id, expression, label = '']) => ({ id, expression, label })),
    outputs: (['approver', 'order', 'days', 'refuse'] as const)
      .filter((key) => rows.some(([, then]) => then[key] !== undefined))
      .map((key) => ({ key })),
    rows: rows.map(([when, then, note = ''], i) => ({ id: `row-${i + 1}`, when, then, note })),
    priorities: [],
    escalateTo: '',
    ...more,
  }) as RuleTableContent

/** The one rule it all began with. */
export const firstRules = (): RuleTableContent =>
  table(
    'Season agreements',
    [['total', 'total']],
    [[{ total: '> 80000' }, { approver: 'operations director' }]],
    {
      missing: 'ask',
    },
  )

/** What Larkmere has approved, by whom; figures are made up. */
const seasonRules = (templateId: string): RuleTableContent =>
  table(
    'Season approvals',
    [
      ['discount', 'discount'],
      ['total', 'total'],
      ['days', 'payment_days'],
      ['leased', 'land.leased'],
    ],
    [
      [{ discount: '> 10' }, { approver: 'sales lead', order: '1', days: '2' }],
      [{ discount: '> 20' }, { approver: 'finance', order: '1', days: '3' }, 'Besides the sales lead.'],
      [{ days: '> 45' }, { approver: 'finance', order: '1', days: '3' }],
      [
        { leased: 'true' },
        { approver: 'legal', order: '1', days: '4' },
        'The landowner’s consent is looked at.',
      ],
      [
        { total: '> 80000' },
        { approver: 'operations director', order: '2', days: '3' },
        'Once the others have.',
      ],
      [{ discount: '> 40' }, { refuse: 'No discount is over 40 %' }],
    ],
    { scope: { kind: 'template', id: templateId }, escalateTo: 'operations director' },
  )

const handRules = (): RuleTableContent =>
  table(
    'Wordings changed by hand',
    [['hand', 'agreement.changed_by_hand']],
    [[{ hand: 'true' }, { approver: 'legal', days: '4' }]],
    { missing: 'ask' },
  )

const saleRules = (saleId: string): RuleTableContent =>
  table(
    'Colony sales',
    [
      ['discount', 'overall_discount'],
      ['payment', 'payment'],
      ['total', 'lots_totals.gross'],
    ],
    [
      [{ payment: '"in instalments"' }, { approver: 'finance' }],
      [{ discount: '>= 2' }, { approver: 'sales lead' }],
      [{ total: '> 6000' }, { approver: 'operations director' }],
      [{ payment: '"in advance"' }, { approver: 'lead of the owner' }],
    ],
    { scope: { kind: 'template', id: saleId } },
  )

async function putInForce(app: App, by: Person, draft: RuleTableContent): Promise<string> {
  const { id } = await makeTable(app, { ...by, rights: [...by.rights] }, draft)
  await publishTable(app, { ...by, rights: [...by.rights] }, id, { version: 1, note: '' })
  return id
}

/** The first rule alone. */
export const loadFirstRules = (app: App, by: Person) => putInForce(app, by, firstRules())

/** The tables for the season agreement and for wordings changed by hand, with their cases. */
export async function loadSeasonRules(app: App, by: Person, templateId: string): Promise<void> {
  const season = await putInForce(app, by, seasonRules(templateId))
  await putInForce(app, by, handRules())
  const who = { ...by, rights: [...by.rights] }
  await keepRuleCase(app, who, season, {
    name: 'Own land, no discount, a large orchard',
    values: { total: '96000', payment_days: '30', 'land.leased': 'false', discount: '0' },
    expected: ['operations director; 2; 3'],
  })
  await keepRuleCase(app, who, season, {
    name: 'A quarter off, sixty days',
    values: { total: '40000', payment_days: '60', 'land.leased': 'false', discount: '25' },
    expected: ['finance; 1; 3', 'finance; 1; 3', 'sales lead; 1; 2'],
  })
}

export const loadSaleRules = (app: App, by: Person, templateId: string) =>
  putInForce(app, by, saleRules(templateId))

/** Who leads which team, and who is away now. */
export async function loadAbsence(app: App, people: readonly Person[]): Promise<void> {
  const holder = (post: string) => people.find((each) => each.post === post)!.id
  await app.db
    .update(team)
    .set({ leadId: holder('sales lead') })
    .where(eq(team.name, 'Sales'))
  await app.db
    .update(team)
    .set({ leadId: holder('legal') })
    .where(eq(team.name, 'Contract desk'))
  const from = await today(app)
  const to = new Date(Date.parse(`${from}T00:00:00Z`) + 9 * 86_400_000).toISOString().slice(0, 10)
  await app.db
    .insert(absence)
    .values({ id: randomUUID(), personId: holder('finance'), from, to, standInId: holder('legal') })
}
