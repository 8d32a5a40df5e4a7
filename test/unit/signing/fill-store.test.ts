import { expect } from 'chai'
import fc from 'fast-check'
import { type Arrival, FillStore, type Value } from '#web/areas/signing/fill-store.ts'

const text = (said: string): Value => ({ kind: 'text', text: said })
const turn = () => new Promise((resolve) => setImmediate(resolve))

/** A server whose answers are given one by one, and a clock that is turned by hand. */
function world(answers: readonly ('kept' | 'lost' | 'refused')[]) {
  const server: Record<string, Value> = {}
  const timers: (() => void)[] = []
  const told: string[] = []
  let n = 0
  const keeper = new FillStore(
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

  it('that is newer is never overwritten by what was lost before it, and each try waits longer than the one before', async () => {
    const waits: number[] = []
    const timers: (() => void)[] = []
    const sent: Record<string, Value | null>[] = []
    let answer: Arrival = { kept: false, problem: null }
    const keeper = new FillStore<Value>(
      {},
      {
        send: async (changes) => {
          sent.push({ ...changes })
          await turn()
          return answer
        },
        refused: () => undefined,
        wait: (milliseconds, act) => {
          waits.push(milliseconds)
          timers.push(act)
          return () => timers.splice(timers.indexOf(act), 1)
        },
      },
    )
    keeper.put({ acres: text('65') })
    // While the first is under way, and is lost.
    keeper.put({ acres: text('80') })
    for (let i = 0; i < 6; i++) {
      await turn()
      await turn()
      timers.shift()?.()
    }
    expect(sent.slice(1).every(({ acres }) => JSON.stringify(acres) === JSON.stringify(text('80')))).to.equal(
      true,
    )
    expect(sent.length).to.be.greaterThan(3)
    expect(waits[0]).to.equal(1500)
    for (const [i, wait] of waits.slice(1).entries()) expect(wait).to.equal(Math.min(waits[i]! * 2, 20_000))
    answer = { kept: true }
    timers.shift()?.()
    for (let i = 0; i < 6; i++) await turn()
    expect(keeper.read()).to.deep.equal({ values: { acres: text('80') }, state: 'kept' })
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
