import { expect } from 'chai'
import fc from 'fast-check'
import { missingBlanks, type PlacedBlank } from '#core/agreement/signing.ts'
import { whoseTurn } from '#core/ceremony/parties.ts'
import { type AgreementState, isEnded, move, type Move, MOVES, STATES } from '#core/agreement/states.ts'
import { thread } from '#core/agreement/thread.ts'

const after = (
  state: AgreementState,
  made: Move,
  facts: Partial<{ openSteps: number; unsigned: number }> = {},
) => {
  const result = move(state, made, { openSteps: 0, unsigned: 2, ...facts })
  return result.ok ? result.state : result.problem
}

describe('an agreement’s states', () => {
  it('lead from draft to executed', () => {
    expect(after('draft', 'route', { openSteps: 1 })).to.equal('in approval')
    expect(after('in approval', 'approve', { openSteps: 1 })).to.equal('in approval')
    expect(after('in approval', 'approve')).to.equal('cleared')
    expect(after('cleared', 'send')).to.equal('out')
    expect(after('out', 'execute', { unsigned: 0 })).to.equal('executed')
  })

  it('clear at once where no rule asks for approval', () => {
    expect(after('draft', 'route')).to.equal('cleared')
  })

  it('never send what is not cleared, nor execute what is not signed', () => {
    expect(after('in approval', 'send')).to.contain('has to be ready to send first')
    expect(after('out', 'execute', { unsigned: 1 })).to.contain('have not signed')
    expect(after('cleared', 'send', { unsigned: 0 })).to.equal('Nobody is there to sign.')
  })

  /** What was refused or has lapsed may be taken up again, or ended for good. */
  const REVIVED: Partial<Record<AgreementState, readonly Move[]>> = {
    declined: ['take back', 'withdraw'],
    lapsed: ['take back', 'withdraw', 'extend'],
  }

  it('allow nothing once ended, but to take up what was refused or has lapsed', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STATES),
        fc.constantFrom(...MOVES),
        fc.nat(3),
        fc.nat(3),
        (state, made, openSteps, unsigned) => {
          const result = move(state, made, { openSteps, unsigned })
          if (isEnded(state) && !REVIVED[state]?.includes(made)) expect(result.ok).to.equal(false)
          if (result.ok && result.state === 'executed') expect([state, unsigned]).to.deep.equal(['out', 0])
          if (result.ok && result.state === 'out')
            expect([state, made]).to.be.deep.oneOf([
              ['cleared', 'send'],
              ['out', 'extend'],
              ['lapsed', 'extend'],
            ])
        },
      ),
    )
  })
})

describe('whose turn it is', () => {
  const party = (id: string, order: number, signedAt: string | null = null) => ({
    id,
    role: id,
    order,
    signedAt,
  })

  it('is the lowest order’s that has not signed, side by side where equal', () => {
    const turn = (...parties: ReturnType<typeof party>[]) => whoseTurn(parties).map(({ id }) => id)
    expect(turn(party('b', 2), party('a', 1))).to.deep.equal(['a'])
    expect(turn(party('a', 1, 'then'), party('b', 2), party('c', 2))).to.deep.equal(['b', 'c'])
    expect(turn(party('a', 1, 'then'))).to.deep.equal([])
  })
})

describe('blanks that are missing', () => {
  const blank = (id: string, kind: PlacedBlank['kind'], page: number, required = true): PlacedBlank => ({
    id,
    kind,
    role: 'grower',
    label: id,
    required,
    page,
    x: 0,
    y: 0,
    width: 10,
    height: 10,
  })

  it('are the required ones of the role in reading order; dates fill themselves', () => {
    const all = [
      blank('sig', 'signature', 5),
      blank('i1', 'initials', 1),
      blank('date', 'date', 5),
      blank('note', 'text', 2, false),
      { ...blank('other', 'signature', 1), role: 'keeper' },
    ]
    expect(missingBlanks(all, 'grower', new Set()).map(({ id }) => id)).to.deep.equal(['i1', 'sig'])
    expect(missingBlanks(all, 'grower', new Set(['i1', 'sig']))).to.deep.equal([])
  })
})

describe('moves that only some states allow', () => {
  const facts = (unsigned: number) => ({ openSteps: 0, unsigned })
  const leads = (state: AgreementState, made: Move, unsigned = 1) => {
    const moved = move(state, made, facts(unsigned))
    return moved.ok ? moved.state : null
  }

  it('give another date to what is out, and to what has lapsed, which is out again', () => {
    for (const state of STATES)
      expect(leads(state, 'extend'), state).to.equal(['out', 'lapsed'].includes(state) ? 'out' : null)
  })

  it('do nothing to what everyone has signed but seal it', () => {
    for (const made of MOVES)
      expect(leads('out', made, 0), made).to.equal(made === 'execute' ? 'executed' : null)
    expect(leads('out', 'execute', 1)).to.equal(null)
  })
})

describe('a thread', () => {
  const signer = (name: string, order: number, more: object = {}) => ({
    name,
    order,
    invitedAt: null,
    signedAt: null,
    declinedAt: null,
    ...more,
  })

  it('shows who holds it up and since when', () => {
    const columns = thread(
      'out',
      [{ approver: 'legal', state: 'approved', order: 1, since: 'monday' }],
      [signer('Maud', 1, { invitedAt: 'tuesday' }), signer('Tobias', 2)],
    )
    expect(
      columns.map((column) =>
        column.map(({ shape, status, since }) => `${shape} ${status} ${since ?? ''}`.trim()),
      ),
    ).to.deep.equal([['square done'], ['circle holds tuesday'], ['circle to come']])
  })

  it('stacks those who act at the same time', () => {
    expect(thread('out', [], [signer('a', 1), signer('b', 1)])).to.have.length(1)
  })

  it('crosses who refused and stops there', () => {
    const columns = thread('declined', [], [signer('Maud', 1, { declinedAt: 'x' }), signer('Tobias', 2)])
    expect(columns.flat().map(({ status }) => status)).to.deep.equal(['refused', 'stopped'])
  })
})
