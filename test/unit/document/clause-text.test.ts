import { expect } from 'chai'
import fc from 'fast-check'
import { clauseFromText, clauseToText, textToInline } from '#core/document/clause-text.ts'
import type { Clause } from '#core/document/tree.ts'
import { Writer } from '#demo/writing.ts'

describe('a clause as lines', () => {
  const w = new Writer()

  it('reads back as it was written, ids and all', () => {
    const clause = w.clause(
      '**Payment.** {{total | in words}} is paid _at the latest_ on {{due}}.',
      w.clause('Interest is {{rate}} a year.'),
      w.clause('It runs from the day after.'),
    )
    const text = clauseToText(clause)
    expect(text).to.equal(
      '**Payment.** {{total | in words}} is paid _at the latest_ on {{due}}.\n- Interest is {{rate}} a year.\n- It runs from the day after.',
    )
    expect(clauseFromText(text, clause)).to.deep.equal(clause)
  })

  it('gives what is new an id of its own and leaves the others theirs', () => {
    const clause = w.clause('One.', w.clause('Two.'))
    const longer = clauseFromText(`${clauseToText(clause)}\n- Three.`, clause)
    const [first, second, third] = longer.content
    expect([first, second].map((block) => block!.attrs.id)).to.deep.equal(
      clause.content.map((block) => block.attrs.id),
    )
    expect(third!.attrs.id).to.match(/^k\d+$/)
    expect((third as Clause).content[0]).to.have.nested.property('content[0].text', 'Three.')
  })

  it('of nothing is a clause to write in', () => {
    const empty = clauseFromText(' \n\n', null)
    expect(empty.content).to.have.length(1)
    expect(empty.content[0]).to.not.have.property('content')
  })

  it('takes hyphens, dashes and bullets for clauses inside, and either end of line', () => {
    const read = clauseFromText('Head\r\n- a\r\n– b\n• c', null)
    expect(read.content.map(({ type }) => type)).to.deep.equal(['paragraph', 'clause', 'clause', 'clause'])
  })

  it('keeps every word, however it is marked', () => {
    const word = fc.stringMatching(/^[a-z]{1,6}$/)
    const piece = fc.oneof(
      word,
      word.map((each) => `**${each}**`),
      word.map((each) => `_${each}_`),
      word.map((each) => `{{${each}}}`),
      fc.tuple(word, word).map(([field, format]) => `{{${field} | ${format}}}`),
    )
    fc.assert(
      fc.property(fc.array(piece, { minLength: 1, maxLength: 8 }), (pieces) => {
        const text = pieces.join(' ')
        const clause = clauseFromText(text, null)
        expect(clauseToText(clause)).to.equal(text)
        expect(clauseFromText(clauseToText(clause), clause)).to.deep.equal(clause)
      }),
    )
  })

  it('leaves single stars, underlines and braces alone', () => {
    for (const text of ['2 * 3', 'a_b_c', 'a { b } c', '{{}}'])
      expect(
        textToInline(text)
          .map((part) => ('text' in part ? part.text : '?'))
          .join(''),
        text,
      ).to.equal(text)
  })
})
