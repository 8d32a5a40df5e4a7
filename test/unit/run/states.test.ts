import { expect } from 'chai'
import fc from 'fast-check'
import {
  nextRunState,
  RUN_MOVES,
  RUN_STATES,
  type RunMove,
  runMoves,
  runRefusal,
  type RunState,
} from '#core/run/states.ts'

const from = (made: RunMove) => runMoves(made).map(([state]) => state)

describe('a run’s moves', () => {
  it('lead from a state to a state, or are refused in words', () => {
    for (const made of RUN_MOVES)
      for (const state of RUN_STATES) {
        const next = nextRunState(state, made)
        if (next === null) expect(runRefusal(state, made)).to.match(/\.$/)
        else expect(RUN_STATES).to.include(next)
      }
  })

  it('leave nothing but its end, a pause and a cancelling to a run that is being made', () => {
    const open = RUN_MOVES.filter((made) => nextRunState('generating', made) !== null)
    expect(open).to.have.members(['pause', 'cancel', 'finish'])
    for (const made of ['pause', 'finish'] as const) expect(from(made)).to.deep.equal(['generating'])
  })

  it('never bring a run that was begun back to before its making', () => {
    const begun: readonly RunState[] = ['generating', 'paused', 'cancelled', 'generated']
    fc.assert(
      fc.property(
        fc.constantFrom(...begun),
        fc.array(fc.constantFrom(...RUN_MOVES), { maxLength: 20 }),
        (start, moves) => {
          let state: RunState = start
          for (const made of moves) {
            const next = nextRunState(state, made)
            // A check that cannot be done at all is the one thing that stops it.
            if (next === null || next === 'failed') continue
            state = next
            expect(begun).to.include(state)
          }
        },
      ),
    )
  })

  it('lead from every state to being made in the end', () => {
    const reaches = (state: RunState, seen = new Set<RunState>()): boolean => {
      if (state === 'generated') return true
      if (seen.has(state)) return false
      seen.add(state)
      return RUN_MOVES.some((made) => {
        const next = nextRunState(state, made)
        return next !== null && reaches(next, seen)
      })
    }
    for (const state of RUN_STATES) expect(reaches(state), state).to.equal(true)
  })
})
