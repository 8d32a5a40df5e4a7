import { expect } from 'chai'
import fc from 'fast-check'
import { movedTo, ordersOf, placedBy } from '#core/ceremony/order.ts'

const placed = (joined: boolean, name: string) => ({ joined, name })
const lists = fc
  .array(fc.boolean(), { minLength: 1, maxLength: 25 })
  .map((joins) => joins.map((joined, i) => placed(i > 0 && joined, String(i))))

describe('a signing order as a list', () => {
  it('counts up, and those joined act together', () => {
    const list = [placed(false, 'a'), placed(true, 'b'), placed(false, 'c')]
    expect(ordersOf(list)).to.deep.equal([1, 1, 2])
  })

  it('reads back from its numbers as it was', () => {
    fc.assert(
      fc.property(lists, (list) => {
        const orders = ordersOf(list)
        const back = placedBy(list.map(({ name }, i) => ({ name, order: orders[i]! })))
        expect(back.map(({ name, joined }) => [name, joined])).to.deep.equal(
          list.map(({ name, joined }) => [name, joined]),
        )
      }),
    )
  })

  it('keeps everyone when one is moved, who stands alone there; the first is never joined', () => {
    fc.assert(
      fc.property(lists, fc.nat(24), fc.nat(24), (list, a, b) => {
        const [from, to] = [a % list.length, b % list.length]
        const moved = movedTo(list, from, to)
        expect(moved.map(({ name }) => name).sort()).to.deep.equal(list.map(({ name }) => name).sort())
        if (from !== to) expect(moved[to]!.name).to.equal(list[from]!.name)
        if (from !== to) expect(moved[to]!.joined).to.equal(false)
        expect(moved[0]!.joined).to.equal(from === to ? list[0]!.joined : false)
        const orders = ordersOf(moved)
        expect(orders[0]).to.equal(1)
        for (let i = 1; i < orders.length; i++) expect(orders[i]! - orders[i - 1]!).to.be.oneOf([0, 1])
      }),
    )
  })
})
