import { expect } from 'chai'
import { describeOrigin } from '#core/agreement/origin.ts'

describe('an origin in words', () => {
  it('names a row by its number in its run', () => {
    expect(describeOrigin({ run: 'Season 2027', row: 12 })).to.equal('row 12 of Season 2027')
  })

  it('names each other kind by what people call it', () => {
    const said = (['record', 'file', 'answer', 'call'] as const).map((origin) =>
      describeOrigin({ origin, named: 'Alder Bend' }),
    )
    expect(said).to.deep.equal([
      'the record Alder Bend',
      'the file Alder Bend',
      'an answer to Alder Bend',
      'a call of Alder Bend',
    ])
  })
})
