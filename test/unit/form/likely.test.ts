import { expect } from 'chai'
import { alike, fingerprintOf, SAME_FORM } from '#core/form/fingerprint.ts'
import { likelyBlanks } from '#core/form/likely.ts'
import { readOf } from './pages.ts'

const told = (page: Parameters<typeof likelyBlanks>[0]) =>
  likelyBlanks(page).map(({ kind, label }) => `${kind}: ${label}`)

describe('likely blanks', () => {
  it('are rules with the words before or below them, and the room that is left', () => {
    const page = readOf(['Name:', '', '', '', 'Signature of the grower'], {
      lines: [
        { x1: 72, x2: 300, y1: 74, y2: 74 },
        { x1: 72, x2: 300, y1: 116, y2: 116 },
      ],
    })
    expect(told(page)).to.deep.equal(['text: Name', 'signature: Signature of the grower'])
    const [name, signature] = likelyBlanks(page)
    expect(name!.box.x).to.be.greaterThan(72 + 5 * 6)
    expect(signature!.box.height).to.equal(26)
  })

  it('are rows of dots or underscores, also behind a word, and squares with the words behind them', () => {
    const page = readOf(['County: ........................', 'Gate______________', 'x Leased'], {
      boxes: [{ x: 66, y: 92, width: 9, height: 9 }],
    })
    expect(told(page)).to.deep.equal(['text: County', 'text: Gate', 'tick: Leased'])
  })

  it('are the empty cells of a table, and neither those with words nor lines under words', () => {
    const down = [72, 172, 272].map((x) => ({ x1: x, x2: x, y1: 60, y2: 120 }))
    const across = [60, 80, 100, 120].map((y) => ({ x1: 72, x2: 272, y1: y, y2: y }))
    const page = readOf(['Item'], { lines: [...down, ...across] })
    expect(likelyBlanks(page)).to.have.length(5)
    const underlined = readOf(['A heading that is underlined'], {
      lines: [{ x1: 72, x2: 240, y1: 74, y2: 74 }],
    })
    expect(told(underlined)).to.deep.equal([])
  })
})

describe('a fingerprint', () => {
  const text = Array.from(
    { length: 60 },
    (_, i) => `clause ${i} says what word${(i * 7) % 13} and thing${i} of matter${i % 5} mean here`,
  )
  const form = [readOf(text.slice(0, 30))]

  it('knows a form again that has grown, and one that was scanned with errors', () => {
    expect(alike(fingerprintOf(form), fingerprintOf(form))).to.equal(1)
    expect(alike(fingerprintOf(form), fingerprintOf([readOf(text)]))).to.be.greaterThan(0.9)
    const scanned = [
      readOf(text.slice(0, 30).map((line, i) => (i % 3 ? line : line.replace('says', 'sqys')))),
    ]
    expect(alike(fingerprintOf(form), fingerprintOf(scanned))).to.be.greaterThan(SAME_FORM)
  })

  it('takes another form for another, and a page of a few words for none', () => {
    const other = [
      readOf(
        Array.from({ length: 30 }, (_, i) => `quite other${i} sentences stand${i % 4} upon this${i} leaf`),
      ),
    ]
    expect(alike(fingerprintOf(form), fingerprintOf(other))).to.be.lessThan(0.1)
    expect(alike(fingerprintOf([readOf(['Two words'])]), fingerprintOf([readOf(['Two words'])]))).to.equal(0)
  })
})
