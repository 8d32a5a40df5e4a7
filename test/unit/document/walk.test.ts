import { expect } from 'chai'
import { allBlocks, allInlines, passageTitle, clauseTitle } from '#core/document/walk.ts'
import { Writer } from '#demo/writing.ts'

const w = new Writer()

describe('walking a document', () => {
  const tree = [
    w.heading(2, 'Care'),
    w.clause(
      '**Access.** The keeper may enter.',
      w.clause('Gates are shut by {{grower.contact}}.'),
      w.bullets('level ground', 'clean water'),
    ),
  ]

  it('meets every block in reading order, outer before inner', () => {
    expect([...allBlocks(tree)].map(({ type }) => type)).to.deep.equal([
      'heading',
      'clause',
      'paragraph',
      'clause',
      'paragraph',
      'bulletList',
      'paragraph',
      'paragraph',
    ])
  })

  it('finds the merge fields wherever they stand', () => {
    const fields = allInlines({ type: 'doc', content: tree }).flatMap((part) =>
      part.type === 'mergeField' ? [part.attrs.field] : [],
    )
    expect(fields).to.deep.equal(['grower.contact'])
  })

  it('calls a clause by its bold opening, else by its first words', () => {
    expect(clauseTitle(w.clause('**Landowner’s consent.** The orchard stands on leased land.'))).to.equal(
      'Landowner’s consent',
    )
    expect(clauseTitle(w.clause('Colonies are moved at night.'))).to.equal('Colonies are moved at night')
    expect(clauseTitle(w.clause('x'.repeat(80)))).to.have.length(58)
    expect(clauseTitle(w.clause(''))).to.equal('Empty clause')
  })

  it('calls a list by its first words', () => {
    expect(passageTitle(w.bullets('level ground'))).to.equal('level ground')
  })
})

describe('writing a template as data', () => {
  it('reads bold, italic and merge fields with formats, one inside the other', () => {
    const content = w.inline('A **bold {{total | amount only}}** and _keeper_.')
    expect(content).to.deep.equal([
      { type: 'text', text: 'A ' },
      { type: 'text', text: 'bold ', marks: [{ type: 'bold' }] },
      { type: 'mergeField', attrs: { field: 'total', format: 'amount only' }, marks: [{ type: 'bold' }] },
      { type: 'text', text: ' and ' },
      { type: 'text', text: 'keeper', marks: [{ type: 'italic' }] },
      { type: 'text', text: '.' },
    ])
  })

  it('gives every block an id of its own', () => {
    const ids = [...allBlocks([w.clause('a', w.clause('b')), w.paragraph('c')])].map(({ attrs }) => attrs.id)
    expect(new Set(ids).size).to.equal(ids.length)
  })
})
