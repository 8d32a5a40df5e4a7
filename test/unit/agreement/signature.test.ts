import { expect } from 'chai'
import { speaks } from '#core/languages/all.ts'
import { signatureProblem, STROKE_LIMITS, textProblem } from '#core/agreement/signature.ts'
import { move } from '#core/agreement/states.ts'
import { fileName, seen } from '#core/text/pattern.ts'

const line = (from: readonly [number, number], to: readonly [number, number]) => [from, to] as const

const { say } = speaks('en')

describe('a signature', () => {
  it('typed has letters that can be seen', () => {
    for (const text of ['Maud Ellery', '果樹園', 'Ōtsuka', '7'])
      expect(signatureProblem({ kind: 'typed', text }, say), text).to.equal(null)
    for (const text of ['\u200b\u200b', '\u3164', '\u2800', '\u202e', '...', '\u00ad'])
      expect(signatureProblem({ kind: 'typed', text }, say), JSON.stringify(text)).to.be.a('string')
  })

  it('drawn has a line inside of its box, and no more points than a hand makes', () => {
    const drawn = (...strokes: (readonly (readonly [number, number])[])[]) =>
      signatureProblem({ kind: 'drawn', strokes, height: 0.3 }, say)
    expect(drawn(line([0.1, 0.1], [0.6, 0.2]))).to.equal(null)
    expect(drawn([[0.5, 0.2]])).to.match(/Hardly anything/)
    expect(drawn(line([0.1, 0.5], [0.9, 0.6])), 'below the box').to.match(/Hardly anything/)
    const many = Array.from({ length: STROKE_LIMITS.points + 1 }, (_, i) => [(i % 100) / 100, 0.1] as const)
    expect(drawn(many)).to.match(/more lines/)
  })

  it('and a text blank holds something that can be seen', () => {
    expect(textProblem('Name', ' \u200b ', say)).to.contain('nothing of this can be seen')
    expect(textProblem('Name', '—', say)).to.equal(null)
  })
})

describe('what follows the last signature', () => {
  it('is the seal, and nothing else', () => {
    const facts = { openSteps: 0, unsigned: 0 }
    expect(move('out', 'execute', facts)).to.deep.equal({ ok: true, state: 'executed' })
    for (const made of ['withdraw', 'decline', 'lapse', 'take back'] as const)
      expect(move('out', made, facts)).to.deep.include({ ok: false })
    expect(move('out', 'withdraw', { openSteps: 0, unsigned: 1 }).ok).to.equal(true)
    expect(move('draft', 'withdraw', facts).ok).to.equal(true)
  })
})

describe('a name of a file', () => {
  it('has no signs that turn it round or cannot be seen', () => {
    expect(fileName('invoice\u202efdp.exe')).to.equal('invoicefdp.exe')
    expect(seen('a\u200bb\u2066c')).to.equal('abc')
  })
})
