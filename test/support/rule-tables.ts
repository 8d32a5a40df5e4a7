import { namesFor, type RuleNames } from '#core/rules/names.ts'
import type { HitPolicy, RuleTable } from '#core/rules/table.ts'
import type { Field } from '#core/outline/field.ts'
import type { Directory } from '#core/approvers/directory.ts'

const field = (name: string, label: string, type: Field['type'], more: Partial<Field> = {}): Field => ({
  name,
  label,
  type,
  required: false,
  ...more,
})

/** What rules of the tests ask about. */
export const SEASON = [
  field('total', 'Total', 'money', { currency: 'USD' }),
  field('discount', 'Discount', 'percent'),
  field('payment_days', 'Days to pay', 'number'),
  field('bloom', 'Bloom begins', 'date'),
  field('land.leased', 'Land leased', 'yes/no'),
  field('crop', 'Crop', 'choice', { choices: ['almonds', 'cherries', 'apples'] }),
  field('county', 'County', 'text'),
] as const

export const seasonNames: RuleNames = namesFor([{ title: 'Season pollination agreement', fields: SEASON }])

const person = (id: string, name: string, post: string, teams: readonly string[] = []) => ({
  id,
  name,
  post,
  teams,
  approves: true,
  left: false,
  absences: [],
})

/** The people whom rules of the tests name. */
export const larkmere: Directory = {
  people: [
    person('ines', 'Ines Hallow', 'contract administrator', ['Contract desk']),
    person('petra', 'Petra Vance', 'sales', ['Sales']),
    person('jonah', 'Jonah Teel', 'sales', ['Sales']),
    person('ruth', 'Ruth Ambler', 'sales lead', ['Sales']),
    person('gideon', 'Gideon Farrow', 'finance'),
    person('maren', 'Maren Oakes', 'legal', ['Contract desk']),
    person('silas', 'Silas Brandt', 'operations director'),
  ],
  teams: [
    { name: 'Sales', lead: 'ruth' },
    { name: 'Contract desk', lead: 'maren' },
  ],
}

/** A table of rows written as arrays: the tests of each column, then who approves. */
export function tableOf(
  hitPolicy: HitPolicy,
  expressions: readonly string[],
  rows: readonly (readonly string[])[],
  more: Partial<RuleTable> = {},
): RuleTable {
  return {
    name: 'Season approvals',
    scope: { kind: 'all' },
    hitPolicy,
    missing: 'ask',
    otherwise: 'nothing',
    inputs: expressions.map((expression, i) => ({ id: `in${i}`, label: '', expression })),
    outputs: [{ key: 'approver' }],
    rows: rows.map((cells, i) => ({
      id: `row${i + 1}`,
      when: Object.fromEntries(expressions.map((_, at) => [`in${at}`, cells[at] ?? '-'])),
      then: { approver: cells[expressions.length] ?? 'legal' },
      note: '',
    })),
    priorities: [],
    escalateTo: '',
    ...more,
  }
}
