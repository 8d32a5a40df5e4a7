import { expect } from 'chai'
import fc from 'fast-check'
import { GivenStore, type Store } from '#web/areas/agreements/one/given.ts'
import { splitValues } from '#web/areas/agreements/one/use-one-agreement.ts'

const storage = (): Store & { readonly all: Map<string, string> } => {
  const all = new Map<string, string>()
  return {
    all,
    getItem: (key) => all.get(key) ?? null,
    setItem: (key, value) => void all.set(key, value),
    removeItem: (key) => void all.delete(key),
  }
}
let occasions = 0
const open = (store: Store, of = 'deal/1/t') => new GivenStore(store, of, () => `occasion ${++occasions}`)

describe('what is given for one agreement', () => {
  it('is there again when the page is loaded anew, under the same occasion, and is another record’s never', () => {
    const store = storage()
    const first = open(store)
    first.open(['season'])
    first.answer('season', '2027')
    expect(open(store).current()).to.deep.equal(first.current())
    expect(open(store, 'deal/2/t').current()).to.include({ occasion: `occasion ${occasions}` })
    expect(open(store, 'deal/2/t').current().answers).to.deep.equal({})
  })

  it('leaves nothing behind once the agreement is made', () => {
    const store = storage()
    const first = open(store)
    first.answer('season', '2027')
    first.end()
    expect(store.all.size).to.equal(0)
    expect(open(store).current().occasion).not.to.equal(first.current().occasion)
  })

  it('survives what somebody else has put in its place', () => {
    for (const broken of ['{', 'null', '[]', '{"open":3}', '{"open":[],"answers":{}}']) {
      const store = storage()
      store.setItem('brevan.one-agreement deal/1/t', broken)
      expect(open(store).current()).to.deep.include({ answers: {}, open: [] })
    }
  })

  it('by any acts: a place stays where it is while others come, and goes only when it is closed', () => {
    const name = fc.constantFrom('season', 'acres', 'bloom', 'price')
    const act = fc.oneof(
      fc.record({ act: fc.constant('open' as const), names: fc.array(name, { maxLength: 4 }) }),
      fc.record({ act: fc.constant('answer' as const), names: fc.tuple(name), text: fc.string() }),
      fc.record({ act: fc.constant('close' as const), names: fc.tuple(name) }),
    )
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        const store = storage()
        const keeper = open(store)
        let heard = 0
        keeper.shown.subscribe(() => heard++)
        for (const each of acts) {
          const { open: before } = keeper.current()
          const told = heard
          const was = keeper.current()
          if (each.act === 'open') keeper.open(each.names)
          else if (each.act === 'answer') keeper.answer(each.names[0], each.text)
          else keeper.close(each.names[0])
          const now = keeper.current()
          expect(now !== was).to.equal(heard > told)
          const stay = each.act === 'close' ? before.filter((one) => one !== each.names[0]) : before
          expect(now.open.slice(0, stay.length)).to.deep.equal(stay)
          expect(new Set(now.open).size).to.equal(now.open.length)
          if (each.act === 'close') expect(now.answers).not.to.have.property(each.names[0])
          // What changed anything is kept at once.
          if (heard > 0) expect(open(store).current()).to.deep.equal(now)
        }
      }),
    )
  })

  it('stands once, above or below', () => {
    const value = (name: string) => ({ name }) as Parameters<typeof splitValues>[0][number]
    const { asked, rest } = splitValues([value('a'), value('b'), value('c')], ['c', 'a'])
    expect(asked.map(({ name }) => name)).to.deep.equal(['a', 'c'])
    expect(rest.map(({ name }) => name)).to.deep.equal(['b'])
  })
})
