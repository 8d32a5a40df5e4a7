import { expect } from 'chai'
import type { RuleTable } from '#core/rules/table.ts'
import { ProblemError } from '#web/api/problem.ts'
import { TableStore } from '#web/areas/rules/table/table-store.ts'
import { tableOf } from '#test/support/rule-tables.ts'

const first = tableOf('collect', ['total'], [['> 10', 'legal']])
const named = (name: string): RuleTable => ({ ...first, name })

/** A server that keeps what it is given, and time that is turned by hand. */
function world() {
  let version = 1
  let refuse: (() => Error) | null = null
  const timers = new Map<number, () => void>()
  let count = 0
  const saved: string[] = []
  const keeper = new TableStore(
    {
      save: (from, { name }) => {
        if (refuse) return Promise.reject(refuse())
        if (from !== version) return Promise.reject(conflict())
        saved.push(name)
        return Promise.resolve({ version: ++version })
      },
      after: (_, act) => {
        const id = ++count
        timers.set(id, act)
        return () => void timers.delete(id)
      },
    },
    first,
    1,
  )
  return {
    keeper,
    saved,
    refuse: (by: (() => Error) | null) => (refuse = by),
    otherSaves: () => ++version,
    async pass() {
      for (const [id, act] of [...timers]) {
        timers.delete(id)
        act()
      }
      await new Promise((resolve) => setImmediate(resolve))
    },
  }
}

const problem = (status: number) => () =>
  new ProblemError({ type: 'about:blank', title: '', status, detail: `refused ${status}` })
const conflict = problem(409)

describe('a rule table’s keeper', () => {
  it('saves after a pause, what came meanwhile too; what is done one after the other is one step back', async () => {
    const { keeper, saved, pass } = world()
    keeper.change(named('A'), 'name')
    keeper.change(named('AB'), 'name')
    expect(keeper.state().saving.kind).to.equal('unsaved')
    await pass()
    expect([saved, keeper.state().saving.kind, keeper.state().version]).to.deep.equal([['AB'], 'saved', 2])
    keeper.undo()
    expect(keeper.state().table).to.equal(first)
    keeper.redo()
    expect(keeper.state().table.name).to.equal('AB')
    await pass()
    expect(saved.at(-1)).to.equal('AB')
  })

  it('tries again what could not be saved, and keeps it meanwhile', async () => {
    const { keeper, saved, refuse, pass } = world()
    refuse(problem(0))
    keeper.change(named('A'))
    await pass()
    expect(keeper.state().saving).to.deep.equal({ kind: 'failed', problem: 'refused 0' })
    refuse(null)
    await pass()
    expect([saved, keeper.state().saving.kind]).to.deep.equal([['A'], 'saved'])
  })

  it('overwrites nobody: after another’s save a person chooses', async () => {
    const { keeper, saved, otherSaves, pass } = world()
    const version = otherSaves()
    keeper.change(named('mine'))
    await pass()
    expect(keeper.state().saving.kind).to.equal('conflict')
    keeper.change(named('mine, more'))
    await pass()
    expect(saved).to.deep.equal([])
    keeper.resolve({ table: named('theirs'), version }, 'mine')
    await pass()
    expect(saved).to.deep.equal(['mine, more'])
    otherSaves()
    keeper.change(named('mine again'))
    await pass()
    keeper.resolve({ table: named('theirs'), version: 4 }, 'theirs')
    expect(keeper.state().table.name).to.equal('theirs')
    keeper.undo()
    expect(keeper.state().table.name).to.equal('mine again')
  })
})
