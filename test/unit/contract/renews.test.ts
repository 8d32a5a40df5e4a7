import { expect } from 'chai'
import { api } from '#contract/api.ts'
import { onlyAsks, type Route } from '#contract/route.ts'

describe('what the contract’s routes renew', () => {
  const routes = Object.entries(api as unknown as Readonly<Record<string, Route>>)
  const read = new Set([...routes.filter(([, route]) => onlyAsks(route)).map(([name]) => name)])

  it('is said by every route that writes, and by no other', () => {
    expect(
      routes.filter(([, { method, renews }]) => (method === 'GET') !== (renews === undefined)),
    ).to.deep.equal([])
  })

  it('tells what only asks, however it is asked', () => {
    const asked = routes
      .filter(([, route]) => onlyAsks(route) && route.method !== 'GET')
      .map(([name]) => name)
    expect(asked.sort()).to.deep.equal([
      'fillMessage',
      'findKinds',
      'findPhrase',
      'followCues',
      'lookBack',
      'previewImport',
      'printProof',
      'proof',
      'recordProof',
      'replacePages',
      'ruleRecords',
      'sendingOfMany',
      'survey',
      'tryConnection',
      'typedProof',
    ])
  })

  it('names routes that can be read', () => {
    for (const [name, { renews }] of routes)
      if (Array.isArray(renews))
        for (const each of renews) expect(read.has(each), `${name} renews ${each}`).to.equal(true)
  })
})
