import { expect } from 'chai'
import { ACT_NAMES, type ActName, ACTS, saysOf } from '#core/trail/acts.ts'
import { actsForParties } from '#core/evidence/evidence.ts'
import { appendEntry } from '#core/trail/trail.ts'

/** The names under which acts stand in trails that were written before: they are never changed. */
const WRITTEN: readonly ActName[] = [
  'made',
  'made again',
  'wording changed by hand',
  'wording of the template again',
  'put to approval',
  'approved',
  'returned',
  'approval fallen',
  'approval kept',
  'handed over',
  'reminded',
  'overdue',
  'asked',
  'answered',
  'cleared',
  'sent',
  'sent unread',
  'time to go set',
  'held',
  'delivered',
  'delivered again',
  'invited',
  'opened',
  'agreed to sign electronically',
  'signed',
  'assented',
  'declined',
  'parties set',
  'reminded to sign',
  'address corrected',
  'signer replaced',
  'signature handed over',
  'date to sign by changed',
  'taken back',
  'lapsed',
  'mail undeliverable',
  'identity shown',
  'identity not shown',
  'device handed over',
  'access code set',
  'code sent',
  'asked as a party',
  'party answered',
  'paper printed',
  'signed on paper',
  'introduction set',
  'introduction removed',
  'withdrawn',
  'followed',
  'not followed',
  'executed',
]

describe('acts', () => {
  it('keep the names that trails have', () =>
    expect(Object.keys(ACTS).sort()).to.deep.equal([...WRITTEN].sort()))

  it('say who did what, in words', () => {
    const says = (act: string, detail = {}) => saysOf({ act, detail })
    expect(says('made', { run: 'Season 2027', row: 12 })).to.equal('made it from row 12 of Season 2027')
    expect(says('returned', { as: 'legal', note: 'The term is missing.' })).to.equal(
      'returned it as legal: “The term is missing.”',
    )
    expect(says('approved', { as: 'legal', note: '' })).to.equal('approved it as legal')
    expect(says('sent', { 'sign by': '2027-02-14T10:00:00.000Z' })).to.equal(
      'sent it, to be signed by 2027-02-14',
    )
  })

  it('of before call a check by the name that it has now', () => {
    const was = { role: 'Grower', check: 'access code', left: 4 }
    expect(saysOf({ act: 'identity shown', detail: was })).to.equal(
      'showed who they are as Grower, by agreed code',
    )
    expect(saysOf({ act: 'identity not shown', detail: was })).to.equal(
      'gave a wrong agreed code as Grower; 4 tries left',
    )
  })

  it('of a later version, or called like what every object has, say their names', () => {
    for (const act of ['renewed', 'constructor', 'toString']) {
      expect(saysOf({ act, detail: {} })).to.equal(act)
      expect(
        actsForParties([appendEntry('a', null, { at: '', actor: 'Brevan', act, detail: {} })]),
      ).to.deep.equal([])
    }
  })

  it('are the parties’ to read where they are about signing, and nobody else’s', () => {
    const told = ACT_NAMES.filter((act) => ACTS[act].parties)
    expect(told).to.have.members([
      'sent',
      'sent unread',
      'invited',
      'opened',
      'agreed to sign electronically',
      'signed',
      'assented',
      'device handed over',
      'reminded to sign',
      'address corrected',
      'signer replaced',
      'signature handed over',
      'date to sign by changed',
      'identity shown',
      'identity not shown',
      'code sent',
      'declined',
      'paper printed',
      'signed on paper',
    ])
  })
})
