import { expect } from 'chai'
import { perObject } from '#core/per-object.ts'

describe('what is worked out once for an object', () => {
  it('is not worked out again for the same one, whatever came of it', () => {
    let times = 0
    const found = perObject((of: { readonly value: string | null | undefined }) => {
      times++
      return of.value
    })
    for (const value of ['a', null, undefined]) {
      const object = { value }
      times = 0
      expect([found(object), found(object)]).to.deep.equal([value, value])
      expect(times).to.equal(1)
      expect(found({ value })).to.equal(value)
      expect(times).to.equal(2)
    }
  })
})
