import { expect } from 'chai'
import fc from 'fast-check'
import type { PageRead } from '#core/form/page-read.ts'
import { frameAt, snapLines, snapped } from '#core/form/snap.ts'

const page: PageRead = {
  width: 612,
  height: 792,
  words: [{ text: 'Orchard', x: 72, y: 90, width: 40, height: 12, base: 100, size: 11 }],
  lines: [{ x1: 120, y1: 102, x2: 300, y2: 102 }],
  boxes: [
    { x: 60, y: 60, width: 500, height: 700 },
    { x: 72, y: 200, width: 150, height: 40 },
    { x: 80, y: 210, width: 10, height: 10 },
  ],
}
const size = { width: 90, height: 15 }

describe('what edges hold on to', () => {
  it('is near: nothing moves further than it reaches, and only where a line is', () => {
    const lines = snapLines(page)
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 600, noNaN: true }),
        fc.double({ min: 0, max: 780, noNaN: true }),
        (x, y) => {
          const found = snapped({ x, y, ...size }, lines, 5)
          expect(Math.abs(found.box.x - x)).to.be.at.most(5)
          expect(Math.abs(found.box.y - y)).to.be.at.most(5)
          expect(found.box).to.include(size)
          if (found.x === null) expect(found.box.x).to.equal(x)
          else expect(lines.across).to.include(found.x)
          if (found.y === null) expect(found.box.y).to.equal(y)
          else expect(lines.down).to.include(found.y)
        },
      ),
    )
  })
})

describe('a click inside of a frame', () => {
  it('means the smallest frame around it, of those that are a place for one thing', () => {
    expect(frameAt(page, { x: 85, y: 215 })).to.deep.equal(page.boxes[2])
    expect(frameAt(page, { x: 150, y: 215 })).to.deep.equal(page.boxes[1])
    expect(frameAt(page, { x: 400, y: 500 })).to.equal(null)
    expect(frameAt(page, { x: 10, y: 10 })).to.equal(null)
  })
})
