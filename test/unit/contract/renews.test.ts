import { expect } from 'chai'
import { api } from '#contract/api.ts'
import type { Route } from '#contract/route.ts'

/** Questions asked by POST, since what is asked is long, whose answers are kept as those of GET are. */
const QUESTIONS = ['proof']

describe('what the contract’s routes renew', () => {
  const routes = Object.entries(api as unknown as Readonly<Record<string, Route>>)
  const read = new Set([
    ...routes.filter(([, { method }]) => method === 'GET').map(([name]) => name),
    ...QUESTIONS,
  ])

  it('is said by every route that writes, and by no other', () => {
    expect(
      routes.filter(([, { method, renews }]) => (method === 'GET') !== (renews === undefined)),
    ).to.deep.equal([])
  })

  it('names routes that can be read', () => {
    for (const [name, { renews }] of routes)
      if (Array.isArray(renews))
        for (const each of renews) expect(read.has(each), `${name} renews ${each}`).to.equal(true)
  })
})
