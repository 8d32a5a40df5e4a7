import { expect } from 'chai'
import * as tables from '#core/states/all.ts'
import { endsOf, type StateTable } from '#core/states/state-table.ts'

describe('every kind that has states', () => {
  for (const [name, table] of Object.entries(tables) as [string, StateTable][])
    describe(name, () => {
      const moves = Object.entries(table.moves)

      it('names each state once, and no other anywhere', () => {
        expect(new Set(table.states).size).to.equal(table.states.length)
        for (const state of [...table.begins, ...moves.flatMap(([, { from, to }]) => [...from, to])])
          expect(table.states).to.contain(state)
      })

      it('comes to each state from where it begins', () => {
        const reached = new Set(table.begins)
        for (let before = -1; before !== reached.size;) {
          before = reached.size
          for (const [, { from, to }] of moves) if (from.some((each) => reached.has(each))) reached.add(to)
        }
        expect([...reached]).to.have.members([...table.states])
      })

      it('has moves that each do something, and goes on from where it begins', () => {
        for (const [move, { from, to }] of moves)
          expect(
            from.some((each) => each !== to),
            move,
          ).to.equal(true)
        expect(table.begins.some((each) => !endsOf(table).includes(each))).to.equal(true)
      })
    })
})
