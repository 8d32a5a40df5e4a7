import { expect } from 'chai'
import { type GivenApproval, routedAgain } from '#core/routing/again.ts'
import type { Basis, RouteStep } from '#core/routing/route.ts'

const basis = (values: Readonly<Record<string, string>>): Basis =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [name, { value, label: name, shown: value }]),
  )

const step = (approver: string, values: Readonly<Record<string, string>>): RouteStep => ({
  approver,
  who: [{ kind: 'post', post: approver }],
  order: 1,
  days: null,
  escalateTo: [],
  reasons: [],
  basis: basis(values),
})

const given = (approver: string, by: string, values: Readonly<Record<string, string>>): GivenApproval => ({
  id: `${approver} ${by}`,
  approver,
  by,
  basis: basis(values),
})

const nobodyElse = () => false

describe('a route worked out again', () => {
  it('keeps approvals for the same values, and lets exactly those fall whose values changed', () => {
    const again = routedAgain(
      [
        given('legal', 'maren', { leased: 'true' }),
        given('operations director', 'silas', { total: '82400' }),
      ],
      [step('legal', { leased: 'true' }), step('operations director', { total: '91000' })],
      nobodyElse,
      [],
    )
    expect(again.steps.map(({ step: { approver }, kept }) => [approver, kept?.by ?? null])).to.deep.equal([
      ['legal', 'maren'],
      ['operations director', null],
    ])
    expect(again.fallen.map(({ given: { by }, reason }) => [by, reason])).to.deep.equal([
      ['silas', 'total was 82400 and is 91000'],
    ])
  })

  it('tells what is asked for no more', () => {
    const again = routedAgain([given('legal', 'maren', { leased: 'true' })], [], nobodyElse, [])
    expect(again.fallen[0]!.reason).to.equal('No rule asks for it any more')
  })

  it('does not ask the same person twice for the same values, whatever the table calls them', () => {
    const again = routedAgain(
      [given('legal', 'maren', { leased: 'true' })],
      [step('Maren Oakes', { leased: 'true' })],
      (_, person) => person === 'maren',
      [],
    )
    expect(again.steps[0]!.kept?.by).to.equal('maren')
    expect(again.fallen).to.have.length(0)
  })

  it('lets the approval of one who has changed it since fall, whatever it rests on', () => {
    const again = routedAgain(
      [given('legal', 'maren', { leased: 'true' })],
      [step('legal', { leased: 'true' })],
      () => true,
      ['maren'],
    )
    expect(again.steps[0]!.kept).to.equal(null)
    expect(again.fallen[0]!.reason).to.equal('They have changed it themselves since')
  })
})
