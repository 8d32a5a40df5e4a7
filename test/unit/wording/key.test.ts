import { expect } from 'chai'
import fc from 'fast-check'
import { keyOfPassages, passagesOf } from '#core/wording/key.ts'

describe('the key of a wording', () => {
  it('gives back the passages it was made of, none for none', () => {
    const id = fc.stringMatching(/^[\w/-]{1,12}$/)
    fc.assert(
      fc.property(fc.array(id), (passages) => {
        expect(passagesOf(keyOfPassages(passages))).to.deep.equal(passages)
      }),
    )
    expect(passagesOf('')).to.deep.equal([])
  })
})
