import { expect } from 'chai'
import fc from 'fast-check'
import { inkOf } from '#core/agreement/ink.ts'
import type { InkPoint } from '#core/agreement/signature.ts'

/** Area that an outline encloses (the shoelace formula). */
const area = (outline: readonly (readonly [number, number])[]): number =>
  Math.abs(
    outline.reduce((sum, [x, y], i) => {
      const [a, b] = outline[(i + 1) % outline.length]!
      return sum + x * b - a * y
    }, 0) / 2,
  )

const line = (pressure?: number): InkPoint[] =>
  Array.from({ length: 20 }, (_, i) =>
    pressure === undefined ? [0.1 + i * 0.04, 0.15] : [0.1 + i * 0.04, 0.15, pressure],
  )

describe('drawn ink', () => {
  it('is thicker where the pen presses', () => {
    const [light, hard] = [area(inkOf([line(0.2)])[0]!), area(inkOf([line(0.9)])[0]!)]
    expect(hard).to.be.greaterThan(light * 1.3)
  })

  it('stays about where the hand was, whatever it drew, and is the same each time', () => {
    const within = fc.double({ min: 0, max: 1, noNaN: true })
    const point: fc.Arbitrary<InkPoint> = fc.tuple(within, within)
    fc.assert(
      fc.property(fc.array(fc.array(point, { minLength: 1, maxLength: 60 }), { maxLength: 6 }), (strokes) => {
        const ink = inkOf(strokes)
        expect(ink).to.have.length(strokes.length)
        for (const [x, y] of ink.flat()) {
          expect(x).to.be.within(-0.05, 1.05)
          expect(y).to.be.within(-0.05, 1.05)
        }
        expect(inkOf(strokes)).to.deep.equal(ink)
      }),
    )
  })

  it('of a dot can be seen', () => expect(area(inkOf([[[0.5, 0.1]]])[0]!)).to.be.greaterThan(0))
})
