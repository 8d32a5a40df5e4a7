import { expect } from 'chai'
import fc from 'fast-check'
import { dueAt } from '#core/next-steps/due.ts'
import { type Named, stepProblems } from '#core/next-steps/problems.ts'
import { describeStep, MOMENTS, momentsOf, type Step } from '#core/next-steps/steps.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import type { Outline } from '#core/outline/field.ts'

const zone = 'America/Los_Angeles'
const at = new Date('2027-03-12T22:30:00Z')
const common = { id: 's', on: 'executed', when: '', delay: { count: 0, unit: 'days' }, tell: 'ines' } as const
const outline: Outline = [
  { name: 'buyer.name', label: 'Buyer', type: 'text', required: true },
  { name: 'total', label: 'Total', type: 'money', required: true },
]
const named: Named = {
  folders: new Set(['ledger']),
  programs: new Set(['hive']),
  people: new Set(['ines']),
  templates: new Set(['invoice']),
  fields: new Set(['status']),
}
const faults = (step: Step, notice = false) =>
  stepProblems([step], outline, named, notice).map(({ message }) => message)

describe('what follows', () => {
  it('is due at the same time of day, also across a change of clocks, and never on a weekend', () => {
    // 14:30 on a Friday before the clocks of the zone go forward (2027-03-14).
    expect(dueAt(at, { count: 3, unit: 'days' }, zone).toISOString()).to.equal('2027-03-15T21:30:00.000Z')
    expect(dueAt(at, { count: 1, unit: 'business days' }, zone).toISOString()).to.equal(
      '2027-03-15T21:30:00.000Z',
    )
    expect(dueAt(at, { count: 72, unit: 'hours' }, zone).toISOString()).to.equal('2027-03-15T22:30:00.000Z')
    expect(dueAt(at, { count: 0, unit: 'business days' }, zone)).to.equal(at)
  })

  it('is never due before its moment, and later where the delay is longer', () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2020-01-01'), max: new Date('2040-01-01'), noInvalidDate: true }),
        fc.nat(400),
        fc.constantFrom('hours' as const, 'days' as const, 'business days' as const),
        (moment, count, unit) => {
          const due = dueAt(moment, { count, unit }, zone)
          expect(due.getTime()).to.be.at.least(moment.getTime())
          expect(dueAt(moment, { count: count + 1, unit }, zone).getTime()).to.be.greaterThan(due.getTime())
          if (unit === 'business days' && count > 0)
            expect(new Date(`${dayIn(zone, due)}T00:00Z`).getUTCDay()).to.be.within(1, 5)
        },
      ),
    )
  })

  it('tells what is wrong with each kind of step before anything follows', () => {
    expect(
      faults({ ...common, kind: 'file to the record', name: '{{number}} {{buyer.name}}' }),
    ).to.deep.equal([])
    expect(faults({ ...common, kind: 'file to the record', name: '{{buyer.nam}}' })[0]).to.contain(
      'buyer.nam',
    )
    expect(faults({ ...common, when: 'total >', kind: 'file to the record', name: 'x' })).to.have.length(1)
    expect(faults({ ...common, when: 'total', kind: 'file to the record', name: 'x' })).to.have.length(1)
    expect(faults({ ...common, kind: 'file to a folder', folder: 'gone', name: 'x' })).to.have.length(1)
    expect(faults({ ...common, kind: 'tell a program', program: 'gone' })).to.have.length(1)
    // Of one that never was nothing is said to be there “any more”.
    const none = { ...named, folders: new Set<string>() }
    const [first] = stepProblems(
      [{ ...common, kind: 'file to a folder', folder: 'gone', name: 'x' }],
      outline,
      none,
      false,
    )
    expect(first!.message).to.match(/^There is none to choose yet: add a filing folder/)
    expect(
      faults({ ...common, kind: 'mail', to: 'nobody', subject: '', text: 'x', attach: true }),
    ).to.have.length(2)
    expect(
      faults({ ...common, kind: 'change the record', of: 'record', field: 'status', value: '"agreed"' }),
    ).to.deep.equal([])
    expect(
      faults({ ...common, kind: 'change the record', of: 'record', field: 'gone', value: 'total +' }),
    ).to.have.length(2)
    expect(
      faults({ ...common, kind: 'next document', template: 'gone', send: false, bill: null }),
    ).to.have.length(1)
    expect(
      faults({ ...common, tell: 'gone', kind: 'follow-up', person: 'gone', text: 'Call', days: 2 }),
    ).to.have.length(2)
  })

  it('begins at a moment that comes: nobody signs a notice, and what is signed is not delivered', () => {
    for (const notice of [true, false])
      for (const on of MOMENTS) {
        const wrong = faults({ ...common, on, kind: 'file to the record', name: 'x' }, notice)
        expect(wrong, `${on}, notice: ${notice}`).to.have.length(momentsOf(notice).includes(on) ? 0 : 1)
      }
    expect(momentsOf(true)).to.deep.equal(['delivered', 'withdrawn'])
    expect(momentsOf(false)[0]).to.equal('executed')
  })

  it('says what it does in a few words', () => {
    const said = describeStep({ ...common, kind: 'tell a program', program: 'hive' }, (id) => `the ${id}`)
    expect(said).to.equal('tell the hive')
  })
})
