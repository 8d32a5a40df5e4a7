import { QueryObserver } from '@tanstack/react-query'
import { expect } from 'chai'
import { queries, renew } from '#web/api/queries.ts'

/** A server that answers when it is told to, with what it had when it was asked. */
function slowServer() {
  const waiting: (() => void)[] = []
  let value = 'before'
  return {
    change: (next: string) => (value = next),
    read: () => {
      const had = value
      return new Promise<string>((resolve) => waiting.push(() => resolve(had)))
    },
    answer: async () => {
      for (const each of waiting.splice(0)) each()
      await new Promise((resolve) => setTimeout(resolve, 5))
    },
  }
}

describe('answers that are read anew', () => {
  beforeEach(() => queries.clear())

  const watch = (read: () => Promise<string>, enabled = true) => {
    const observer = new QueryObserver(queries, { queryKey: ['run'], queryFn: read, enabled })
    const stop = observer.subscribe(() => undefined)
    return { observer, stop, shown: () => observer.getCurrentResult().data }
  }

  it('never keep what was on its way when it changed, also where they are off meanwhile', async () => {
    const server = slowServer()
    const { observer, stop, shown } = watch(server.read)
    await server.answer()
    expect(shown()).to.equal('before')
    void observer.refetch()
    observer.setOptions({ ...observer.options, enabled: false })
    server.change('after')
    const renewed = renew('run')
    await server.answer()
    await renewed
    observer.setOptions({ ...observer.options, enabled: true })
    await server.answer()
    await server.answer()
    expect(shown()).to.equal('after')
    stop()
  })

  it('are there when the renewal is done, also where another renewal cut it short', async () => {
    const server = slowServer()
    const { stop, shown } = watch(server.read)
    await server.answer()
    server.change('after the first')
    const seen: unknown[] = []
    const first = renew('run').then(() => seen.push(shown()))
    await new Promise((resolve) => setTimeout(resolve, 5))
    server.change('after the second')
    const second = renew('run').then(() => seen.push(shown()))
    await new Promise((resolve) => setTimeout(resolve, 5))
    expect(seen, 'nothing is done before it is read').to.deep.equal([])
    await server.answer()
    await Promise.all([first, second])
    expect(seen).to.deep.equal(['after the second', 'after the second'])
    stop()
  })
})
