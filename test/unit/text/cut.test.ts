import { expect } from 'chai'
import fc from 'fast-check'
import { cut, initial } from '#core/text/cut.ts'

describe('the beginning of a text', () => {
  it('has no half of a sign, however it is cut', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.nat(20), (text, most) => {
        const begun = cut(text, most)
        expect(begun.isWellFormed()).to.equal(true)
        expect(text.startsWith(begun)).to.equal(true)
        expect(begun.length).to.be.within(Math.min(text.length, most) - 1, most)
      }),
    )
  })

  it('is one whole sign where the first is asked for', () => {
    expect([initial('🐝 keeper'), initial('grower'), initial('')]).to.deep.equal(['🐝', 'G', ''])
  })
})
