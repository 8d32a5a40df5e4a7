import { expect } from 'chai'
import { goesOn, linesOf, rightEdge } from '#core/form/lines.ts'
import { readOf } from './pages.ts'

/** The lines that begin a paragraph. */
function paragraphs(texts: readonly string[]): readonly string[] {
  const lines = linesOf(readOf(texts))
  return lines
    .filter((line, i) => i === 0 || !goesOn(lines[i - 1]!, line, rightEdge(lines)))
    .map(({ text }) => text.split(' ')[0]!)
}

describe('printed lines', () => {
  it('are one paragraph while each is full, and another after a short one', () => {
    const full = 'colonies are set down at the gate of the orchard at'
    expect(
      paragraphs([`First ${full}`, `second ${full}`, 'third and short', `Fourth ${full}`, 'fifth']),
    ).to.deep.equal(['First', 'Fourth'])
  })

  it('of a list of short entries stay apart', () => {
    expect(
      paragraphs(['Grower:', 'Orchard: County:', 'Season:', 'a line as long as the page has room for one']),
    ).to.deep.equal(['Grower:', 'Orchard:', 'Season:', 'a'])
  })
})
