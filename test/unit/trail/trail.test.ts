import { expect } from 'chai'
import fc from 'fast-check'
import { appendEntry, NO_PREVIOUS, type TrailAct, type TrailEntry, verifyTrail } from '#core/trail/trail.ts'

const act = fc.record({
  at: fc.constant('2027-01-01T00:00:00.000Z'),
  actor: fc.string(),
  act: fc.string(),
  detail: fc.dictionary(fc.string(), fc.oneof(fc.string(), fc.integer(), fc.boolean(), fc.constant(null))),
})

const trailOf = (acts: readonly TrailAct[]) =>
  acts.reduce<TrailEntry[]>((all, each) => [...all, appendEntry('a1', all.at(-1) ?? null, each)], [])

describe('a trail', () => {
  it('begins from nothing and binds each entry to the one before', () => {
    const [first, second] = trailOf([
      { at: 't', actor: 'Ines', act: 'made', detail: {} },
      { at: 't', actor: 'Ines', act: 'sent', detail: {} },
    ])
    expect(first!.previous).to.equal(NO_PREVIOUS)
    expect(second!.previous).to.equal(first!.hash)
  })

  it('verifies as it was written, whatever was written', () => {
    fc.assert(fc.property(fc.array(act, { maxLength: 12 }), (acts) => verifyTrail(trailOf(acts)).ok))
  })

  it('shows any entry that was changed, left out or put in another place', () => {
    fc.assert(
      fc.property(
        fc.array(act, { minLength: 3, maxLength: 8 }),
        fc.nat(),
        fc.constantFrom('change', 'drop', 'swap'),
        (acts, where, how) => {
          const whole = trailOf(acts)
          const at = where % (whole.length - 1)
          const harmed = [...whole]
          if (how === 'change') harmed[at] = { ...harmed[at]!, actor: `${harmed[at]!.actor}!` }
          else if (how === 'drop') harmed.splice(at, 1)
          else [harmed[at], harmed[at + 1]] = [harmed[at + 1]!, harmed[at]!]
          expect(verifyTrail(harmed).ok).to.equal(false)
        },
      ),
    )
  })
})
