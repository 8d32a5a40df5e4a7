import { expect } from 'chai'
import fc from 'fast-check'
import { FillKeeper } from '#web/areas/signing/fill-keeper.ts'
import type { Arrival, Value } from '#web/areas/signing/fill-keeper.ts'

const text = (said: string): Value => ({ kind: 'text', text: said })
const turn = () => new Promise((resolve) => setImmediate(resolve))

/** A server whose answers are given one by one, and a clock that is turned by hand. */
function world(answers: readonly ('kept' | 'lost' | 'refused')[]) {
  const server: Record<string, Value> = {}
  const timers: (() => void)[] = []
  const told: string[] = []
  let n = 0
  const keeper = new FillKeeper(
    {},
    {
      send: async (changes): Promise<Arrival> => {
        await turn()
        const answer = answers[n++] ?? 'kept'
        if (answer === 'refused') return { kept: false, problem: 'no' }
        // A connection may be lost before or after what was sent has arrived.
        if (answer === 'kept' || n % 2)
          for (const [id, value] of Object.entries(changes)) {
            if (value === null) delete server[id]
            else server[id] = value
          }
        return answer === 'kept' ? { kept: true } : { kept: false, problem: null }
      },
      refused: (problem) => told.push(problem),
      wait: (_, act) => {
        timers.push(act)
        return () => timers.splice(timers.indexOf(act), 1)
      },
    },
  )
  return { keeper, server, told, tick: () => timers.shift()?.() }
}

async function untilQuiet({ keeper, tick }: ReturnType<typeof world>) {
  for (let i = 0; i < 400 && keeper.read().state !== 'kept'; i++) {
    tick()
    await turn()
  }
}

describe('what a signer fills in', () => {
  it('is sent again until it arrives', async () => {
    const all = world(['lost', 'lost', 'kept'])
    all.keeper.put({ acres: text('65') })
    await turn()
    await turn()
    expect(all.keeper.read().state).to.equal('lost')
    expect(all.keeper.read().values).to.deep.equal({ acres: text('65') })
    await untilQuiet(all)
    expect(all.server).to.deep.equal({ acres: text('65') })
  })

  it('stands as before where it is refused, and that is told', async () => {
    const all = world(['kept', 'refused'])
    all.keeper.put({ acres: text('65') })
    await untilQuiet(all)
    all.keeper.put({ acres: text('many') })
    expect(all.keeper.read().values).to.deep.equal({ acres: text('many') })
    await untilQuiet(all)
    expect(all.keeper.read().values).to.deep.equal({ acres: text('65') })
    expect(all.told).to.deep.equal(['no'])
  })

  it('is, once all is quiet, the same on the page and on the server, whatever was lost', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.constantFrom('kept', 'lost', 'refused'), { maxLength: 12 }),
        fc.array(
          fc.tuple(fc.constantFrom('a', 'b', 'c'), fc.option(fc.constantFrom('1', '2', '3')), fc.boolean()),
          { maxLength: 15 },
        ),
        async (answers, acts) => {
          const all = world(answers)
          for (const [id, value, pause] of acts) {
            all.keeper.put({ [id]: value === null ? null : text(value) })
            if (pause) await turn()
          }
          await untilQuiet(all)
          expect(all.keeper.read().state).to.equal('kept')
          if (!answers.includes('refused') || !answers.includes('lost'))
            expect(all.keeper.read().values).to.deep.equal(all.server)
        },
      ),
      { numRuns: 150 },
    )
  })
})
