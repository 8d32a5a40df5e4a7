import { expect } from 'chai'
import { ACT_NAMES } from '#core/trail/acts.ts'
import { eventOf, typeOf } from '#core/trail/events.ts'
import { pauseAfter } from '#core/trail/telling.ts'

describe('pauses between tries', () => {
  it('grow, and let fifteen tries and more come in the three days that an act waits', () => {
    const pauses = Array.from({ length: 40 }, (_, i) => pauseAfter(i + 1))
    for (let i = 1; i < pauses.length; i++) expect(pauses[i]).to.be.at.least(pauses[i - 1]!)
    let at = 0
    const within = pauses.filter((pause) => (at += pause) < 3 * 86_400_000)
    expect(within.length).to.be.within(15, 40)
    // After an hour of silence the next try is not far.
    expect(pauseAfter(8)).to.be.at.most(3_600_000)
  })
})

describe('an act as an event', () => {
  const entry = {
    seq: 3,
    at: '2027-02-01T09:00:00.000Z',
    actor: 'Ines Hallow',
    act: 'sent',
    detail: {},
    hash: 'f'.repeat(64),
  }
  const agreement = { id: '0b8ad9a6-3c1f-4a55-9b7e-2f1d6c3e4a10', number: 'LP-1', name: 'Colony sale' }

  it('has the same id whenever it is told, and another one than any other act', () => {
    const event = eventOf('https://here.example', agreement, entry)
    expect(eventOf('https://here.example', agreement, { ...entry }).id).to.equal(event.id)
    expect(eventOf('https://here.example', agreement, { ...entry, seq: 4 }).id).to.not.equal(event.id)
    expect(event).to.include({ specversion: '1.0', time: entry.at, type: 'brevan.agreement.sent' })
  })

  it('has a type of its own for each act, of letters and hyphens', () => {
    const types = ACT_NAMES.map(typeOf)
    expect(new Set(types).size).to.equal(ACT_NAMES.length)
    for (const type of types) expect(type).to.match(/^brevan\.agreement\.[a-z-]+$/)
  })
})
