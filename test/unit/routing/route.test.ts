import { expect } from 'chai'
import { number } from '#core/expression/values/value.ts'
import type { Value } from '#core/expression/values/value.ts'
import { route } from '#core/routing/route.ts'

const words = { label: (name: string) => name, show: (value: Value) => String(value) }
const rules = [
  { id: 'total', condition: 'total > 80000', approver: 'operations director' },
  { id: 'discount', condition: 'discount > 20', approver: 'operations director' },
  { id: 'leased', condition: 'leased', approver: 'legal' },
]
const record = (total: number, discount: number, leased: boolean | null) =>
  new Map<string, Value>([
    ['total', number(total)],
    ['discount', number(discount)],
    ['leased', leased],
  ])

describe('routing by rules', () => {
  it('asks nobody where no rule holds; the limit itself is not over it', () => {
    expect(route(rules, record(80000, 0, false), words)).to.deep.equal({ ok: true, steps: [] })
  })

  it('asks each post once, with all the reasons', () => {
    const routed = route(rules, record(80001, 25, true), words)
    expect(routed.ok && routed.steps).to.deep.equal([
      {
        rule: 'total',
        approver: 'operations director',
        reason: 'total 80001 is over 80000; discount 25 is over 20',
      },
      { rule: 'leased', approver: 'legal', reason: 'leased is true' },
    ])
  })

  it('never lets pass what it cannot decide', () => {
    expect(route(rules, record(1, 1, null), words)).to.deep.include({ ok: false })
    expect(
      route([{ id: 'x', condition: 'total >', approver: 'legal' }], record(1, 1, true), words),
    ).to.deep.include({ ok: false })
  })
})
