import { expect } from 'chai'
import fc from 'fast-check'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import { STATES } from '#core/agreement/states.ts'
import { COURSES, courseRefusal, coursesNow } from '#core/ceremony/sender-commands.ts'
import {
  type Bearer,
  type Ceremony,
  LINK_ENDS,
  PARTY_ACTS,
  type PartyAct,
  passageOf,
} from '#core/ceremony/gates.ts'
import { CHECKS, PARTY_KINDS, whoseTurn } from '#core/ceremony/parties.ts'
import { languageOf } from '#core/languages/language.ts'
import { speaks } from '#core/languages/all.ts'

const { say } = speaks('en')
const now = new Date('2026-12-01T12:00:00Z')
const blank = (id: string, over: Partial<PlacedBlank> = {}): PlacedBlank => ({
  id,
  kind: 'signature',
  role: 'grower',
  label: id,
  required: true,
  page: 1,
  x: 0,
  y: 0,
  width: 100,
  height: 20,
  ...over,
})
const ceremony = (over: Partial<Ceremony> = {}): Ceremony => ({
  state: 'out',
  revision: 1,
  signBy: new Date('2026-12-10T00:00:00Z'),
  parties: [{ id: 'p1', order: 1, signedAt: null }],
  blanks: [blank('signature')],
  ...over,
})
const bearer = (over: Partial<Bearer> = {}): Bearer => ({
  id: 'p1',
  role: 'grower',
  revision: 1,
  kind: 'signer',
  check: 'link',
  mayDecline: true,
  mayHandOver: false,
  consented: false,
  signedAt: null,
  link: null,
  proved: false,
  values: new Map(),
  ...over,
})
const may = (c: Ceremony, b: Bearer) => [...passageOf(c, b, now, say).may].sort()
const filled = new Map([['signature', { kind: 'typed', text: 'Maud Ellery' } as const]])

describe('the gates of a ceremony', () => {
  it('are passed in order: identity, consent, blanks, finish', () => {
    const coded = { check: 'mail code' } as const
    expect(may(ceremony(), bearer(coded))).to.deep.equal(['prove'])
    expect(may(ceremony(), bearer({ ...coded, proved: true }))).to.deep.equal([
      'ask',
      'consent',
      'decline',
      'read',
    ])
    expect(may(ceremony(), bearer({ consented: true }))).to.deep.equal(['ask', 'decline', 'fill', 'read'])
    expect(may(ceremony(), bearer({ consented: true, values: filled }))).to.deep.equal([
      'ask',
      'decline',
      'fill',
      'finish',
      'read',
    ])
  })

  it('ask nothing to be filled in of somebody who only has to agree', () => {
    const passage = passageOf(ceremony(), bearer({ kind: 'assenter', consented: true }), now, say)
    expect(passage.gates.map(({ gate }) => gate)).not.to.include('blanks')
    expect([...passage.may])
      .to.include('finish')
      .and.not.include('fill')
  })

  it('let one who gets a copy read, and nothing more', () => {
    expect(may(ceremony(), bearer({ kind: 'copy' }))).to.deep.equal(['read'])
  })

  it('name what is missing, in reading order', () => {
    const blanks = [blank('second', { y: 50 }), blank('first'), blank('may stay', { required: false })]
    const { missing } = passageOf(ceremony({ blanks }), bearer({ consented: true }), now, say)
    expect(missing.map((each) => each.blank.id)).to.deep.equal(['first', 'second'])
  })

  it('are shut once the date has passed, before anybody has noted it', () => {
    const late = passageOf(ceremony(), bearer({ consented: true }), new Date('2026-12-10T00:00:01Z'), say)
    expect(late.standing).to.equal('lapsed')
    expect([...late.may]).to.deep.equal([])
  })

  const parties = fc.array(
    fc.record({
      kind: fc.constantFrom(...PARTY_KINDS),
      order: fc.integer({ min: 1, max: 4 }),
      signedAt: fc.option(fc.constant('2026-11-30T00:00:00Z')),
    }),
    { minLength: 1, maxLength: 8 },
  )
  const bearers = fc.record({
    revision: fc.integer({ min: 1, max: 2 }),
    check: fc.constantFrom(...CHECKS),
    mayDecline: fc.boolean(),
    mayHandOver: fc.boolean(),
    consented: fc.boolean(),
    link: fc.option(fc.constantFrom(...LINK_ENDS)),
    proved: fc.boolean(),
    signs: fc.boolean(),
  })

  it('hold for every state, party and link: nobody signs out of turn, unproved, unasked, or twice', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STATES),
        parties,
        bearers,
        fc.nat(7),
        fc.boolean(),
        (state, some, of, at, late) => {
          const all = some.map((each, i) => ({ ...each, id: `p${i}` }))
          const self = all[at % all.length]!
          const c = ceremony({
            state,
            parties: all,
            signBy: late ? new Date('2026-11-30T00:00:00Z') : new Date('2026-12-10T00:00:00Z'),
          })
          const b = bearer({ ...self, ...of, values: of.signs ? filled : new Map() })
          const passage = passageOf(c, b, now, say)
          const can = (act: PartyAct) => passage.may.has(act)
          const open =
            state === 'out' &&
            b.revision === 1 &&
            b.link === null &&
            !late &&
            whoseTurn(all).some(({ id }) => id === b.id)
          const shown = b.check === 'link' || b.proved
          for (const act of PARTY_ACTS.filter((each) => each !== 'prove' && each !== 'read'))
            if (can(act)) expect(open && shown, act).to.equal(true)
          if (can('read')) expect(shown && b.link === null && b.revision === 1).to.equal(true)
          if (can('fill')) expect(b.consented && self.kind === 'signer').to.equal(true)
          if (can('finish'))
            expect(b.consented && (self.kind === 'assenter' || of.signs) && self.kind !== 'copy').to.equal(
              true,
            )
          if (can('decline')) expect(b.mayDecline).to.equal(true)
          if (can('hand over')) expect(b.mayHandOver).to.equal(true)
          if (can('prove')) expect(shown).to.equal(false)
          // Someone whose turn it is can always go on: there is a next gate, and an act that passes it.
          if (open) expect(passage.may.size).to.be.greaterThan(0)
        },
      ),
      { numRuns: 2000 },
    )
  })
})

describe('whose turn it is among parties of all kinds', () => {
  it('never waits for one who only gets a copy', () => {
    const copy = { id: 'c', kind: 'copy', order: 1, signedAt: null } as const
    const signer = { id: 's', kind: 'signer', order: 2, signedAt: null } as const
    expect(whoseTurn([copy, signer]).map(({ id }) => id)).to.deep.equal(['s'])
    expect(whoseTurn([copy])).to.deep.equal([])
  })
})

describe('what the sender can do while it is out', () => {
  it('is in the table, and each course that moves the state is a move its state allows', () => {
    for (const state of STATES) {
      const facts = { openSteps: 0, unsigned: 1 }
      for (const { name, from } of COURSES)
        expect(courseRefusal(name, state, facts) === null, `${name} from ${state}`).to.equal(
          (from as readonly string[]).includes(state),
        )
    }
    expect(coursesNow('declined', { openSteps: 0, unsigned: 1 })).to.deep.equal(['take back', 'withdraw'])
    expect(coursesNow('executed', { openSteps: 0, unsigned: 0 })).to.deep.equal([])
  })

  it('is nothing once everyone has signed', () => {
    expect(coursesNow('out', { openSteps: 0, unsigned: 0 })).to.deep.equal([])
  })
})

describe('the language a party is spoken to in', () => {
  it('is the nearest of those there are', () => {
    expect(languageOf('es-MX')).to.equal('es')
    expect(languageOf('FR')).to.equal('fr')
    expect(languageOf('pt-BR')).to.equal('en')
    expect(languageOf(null, 'fr')).to.equal('fr')
  })
})
