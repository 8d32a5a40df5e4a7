import { expect } from 'chai'
import fc from 'fast-check'
import { number, type Value } from '#core/expression/values/value.ts'
import { describeReasons, routeOf, type RouteStep } from '#core/routing/route.ts'
import type { Decided } from '#core/rules/decide.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { larkmere, seasonNames, tableOf } from '#test/support/rule-tables.ts'

const of = (values: Readonly<Record<string, Value>>): Decided => ({
  context: new Map<string, Value>([
    ...Object.entries(values),
    ['land', new Map([['leased', values['land.leased'] ?? null]])],
  ]),
  knows: (name) => name in values,
  words: seasonNames.words,
})

const on = { owner: 'petra', data: () => 'data', words: () => 'words' }

const routed = (tables: readonly RuleTable[], values: Readonly<Record<string, Value>>) =>
  routeOf(
    { tables: tables.map((table, i) => ({ id: `t${i}`, edition: 3, table })), directory: larkmere },
    of(values),
    on,
  )

function steps(tables: readonly RuleTable[], values: Readonly<Record<string, Value>>): readonly RouteStep[] {
  const found = routed(tables, values)
  if (!found.ok) throw new Error(found.problem)
  return found.route.steps
}

const season = tableOf(
  'collect',
  ['total', 'discount', 'payment_days', 'land.leased'],
  [
    ['-', '> 10', '-', '-', 'sales lead'],
    ['-', '> 20', '-', '-', 'finance'],
    ['> 80000', '-', '-', '-', 'operations director'],
    ['-', '-', '> 45', '-', 'finance'],
    ['-', '-', '-', 'true', 'legal'],
  ],
)
const values = (total: number, discount: number, days: number, leased: boolean) => ({
  total: number(total),
  discount: number(discount),
  payment_days: number(days),
  'land.leased': leased,
})

describe('a route', () => {
  it('asks nobody where no row holds; the limit itself is not over it', () => {
    expect(steps([season], values(80000, 10, 45, false))).to.deep.equal([])
  })

  it('gives the shortest of the times to sign in that its rows ask for, whichever comes first', () => {
    const within = (...days: readonly string[]) => {
      const table = tableOf(
        'collect',
        ['total'],
        days.map(() => ['> 1', 'legal']),
        { outputs: [{ key: 'approver' }, { key: 'signBy' }] },
      )
      const rows = table.rows.map((row, i) => ({ ...row, then: { ...row.then, signBy: days[i]! } }))
      const found = routed([{ ...table, rows }], values(100, 0, 0, false))
      if (!found.ok) throw new Error(found.problem)
      return found.route.signBy
    }
    expect(within('21', '7', '14')).to.equal(7)
    expect(within('7', '21')).to.equal(7)
    expect(within('21', '')).to.equal(21)
    expect(within('', '')).to.equal(null)
  })

  it('asks each approver once, with every reason, its row and edition', () => {
    const [finance] = steps([season], values(1, 25, 60, false)).filter(
      ({ approver }) => approver === 'finance',
    )
    expect(describeReasons(finance!.reasons)).to.equal('Discount 25% is over 20%; Days to pay 60 is over 45')
    const [reason] = finance!.reasons
    expect(describeReasons([reason!, { ...reason!, row: 9 }]), 'once, whoever says it').to.equal(reason!.says)
    expect(finance!.reasons.map(({ row, edition }) => [row, edition])).to.deep.equal([
      [2, 3],
      [4, 3],
    ])
    expect(Object.keys(finance!.basis)).to.deep.equal(['discount', 'payment_days'])
  })

  it('asks exactly the posts of the rows that hold, each once', () =>
    fc.assert(
      fc.property(fc.nat(200_000), fc.nat(40), fc.nat(90), fc.boolean(), (total, discount, days, leased) => {
        const expected = new Set([
          ...(discount > 10 ? ['sales lead'] : []),
          ...(discount > 20 || days > 45 ? ['finance'] : []),
          ...(total > 80_000 ? ['operations director'] : []),
          ...(leased ? ['legal'] : []),
        ])
        const posts = steps([season], values(total, discount, days, leased)).map(({ approver }) => approver)
        expect(new Set(posts)).to.deep.equal(expected)
        expect(posts).to.have.length(expected.size)
      }),
    ))

  it('goes by order, joins the tables, and takes the earliest place and the shortest time of an approver', () => {
    const first = tableOf('collect', ['total'], [['> 1', 'finance']], {
      outputs: [{ key: 'approver' }, { key: 'order' }, { key: 'days' }],
    })
    const said = (order: string, days: string, approver: string): RuleTable => ({
      ...first,
      rows: [{ ...first.rows[0]!, then: { approver, order, days } }],
    })
    const found = steps(
      [
        said('2', '5', 'finance, legal'),
        said('1', '3', 'finance'),
        said('1', '', 'Ruth Ambler or Silas Brandt'),
      ],
      {
        total: number(5),
      },
    )
    expect(found.map(({ approver, order, days }) => [approver, order, days])).to.deep.equal([
      ['finance', 1, 3],
      ['Ruth Ambler or Silas Brandt', 1, null],
      ['legal', 2, 5],
    ])
  })

  it('names whoever leads a team of the owner', () => {
    const table = tableOf('collect', ['total'], [['> 1', 'lead of the owner']])
    expect(steps([table], { total: number(5) })[0]!.who).to.deep.equal([{ kind: 'lead', of: 'petra' }])
  })

  it('never lets pass what it cannot decide, nor a name that nobody has any more', () => {
    const missing = routed([season], { ...values(1, 1, 1, false), discount: null })
    expect(missing).to.deep.equal({
      ok: false,
      problem: '“Discount” is missing, and row 1 asks for it. (Season approvals, edition 3)',
    })
    const gone = steps([tableOf('collect', ['total'], [['> 1', 'harvest lead']])], { total: number(5) })
    expect(gone[0]!.who).to.deep.equal([{ kind: 'post', post: 'harvest lead' }])
    expect(routed([tableOf('collect', ['total'], [['> >', 'legal']])], { total: number(5) })).to.include({
      ok: false,
    })
  })

  it('takes a missing value as the table says, and leaves rows about what a template does not have', () => {
    const lenient = { ...season, missing: 'does not hold' as const }
    expect(steps([lenient], { ...values(90_000, 0, 0, false), discount: null })).to.have.length(1)
    expect(steps([season], { total: number(90_000) }).map(({ approver }) => approver)).to.deep.equal([
      'operations director',
    ])
  })

  it('rests a row without tests on all there is', () => {
    const [step] = steps([tableOf('collect', [], [['legal']])], { total: number(1) })
    expect(step!.basis).to.deep.include({ '@data': { value: 'data', label: 'The data', shown: '' } })
    expect(describeReasons(step!.reasons)).to.equal('Every agreement that this table is about')
  })
})
