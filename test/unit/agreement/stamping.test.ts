import { expect } from 'chai'
import fc from 'fast-check'
import { SCRIPTS } from '#core/agreement/signature.ts'
import { type StampPart, stampParts } from '#core/agreement/stamping.ts'
import type { Filled } from '#core/agreement/filled.ts'

const unit = fc.integer({ min: 0, max: 1000 }).map((each) => each / 1000)
const place = fc.record({
  page: fc.integer({ min: 1, max: 9 }),
  x: fc.integer({ min: 0, max: 400 }),
  y: fc.integer({ min: 0, max: 700 }),
  width: fc.integer({ min: 8, max: 200 }),
  height: fc.integer({ min: 8, max: 60 }),
  options: fc.array(
    fc.record({
      page: fc.integer({ min: 1, max: 9 }),
      x: fc.integer({ min: 0, max: 500 }),
      y: fc.integer({ min: 0, max: 700 }),
    }),
    { minLength: 4, maxLength: 4 },
  ),
})
const value: fc.Arbitrary<Filled> = fc.oneof(
  fc.record({ kind: fc.constant('text' as const), text: fc.string() }),
  fc.record({
    kind: fc.constant('file' as const),
    name: fc.string(),
    sha256: fc.constant('a'.repeat(64)),
    size: fc.nat(),
  }),
  fc.record({ kind: fc.constant('typed' as const), text: fc.string(), script: fc.constantFrom(...SCRIPTS) }),
  fc.record({ kind: fc.constant('tick' as const) }),
  fc.record({
    kind: fc.constant('choice' as const),
    chosen: fc.uniqueArray(fc.integer({ min: 0, max: 3 })),
  }),
  fc.record({
    kind: fc.constant('picture' as const),
    sha256: fc.constant('a'.repeat(64)),
    size: fc.nat(),
    width: fc.integer({ min: 1, max: 6000 }),
    height: fc.integer({ min: 1, max: 6000 }),
  }),
  fc
    .tuple(fc.array(fc.tuple(unit, unit), { minLength: 2, maxLength: 9 }), fc.integer({ min: 5, max: 100 }))
    .map(([points, height]): Filled => ({
      kind: 'drawn',
      strokes: [points.map(([x, y]) => [x, (y * height) / 100])],
      height: height / 100,
    })),
)

/** Left, right, top and bottom of a part; of a text those of its room, from the base line up. */
function reach(part: StampPart): readonly [number, number, number, number] {
  switch (part.kind) {
    case 'text':
      return [part.x, part.x + part.room, part.y - part.size * 0.7, part.y]
    case 'picture':
      return [part.x, part.x + part.width, part.y, part.y + part.height]
    case 'lines':
      return [
        Math.min(...part.lines.map(([x]) => x)),
        Math.max(...part.lines.map(([, , x]) => x)),
        Math.min(...part.lines.flatMap(([, y1, , y2]) => [y1, y2])),
        Math.max(...part.lines.flatMap(([, y1, , y2]) => [y1, y2])),
      ]
    case 'ink': {
      const xs = part.outlines.flat().map(([x]) => part.x + x * part.scale)
      const ys = part.outlines.flat().map(([, y]) => part.y + y * part.scale)
      return [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
    }
  }
}

describe('what is filled in, on its page', () => {
  it('stays in its place, but for the reach of a hand', () => {
    fc.assert(
      fc.property(place, value, fc.boolean(), (blank, given, noted) => {
        for (const part of stampParts(blank, given, noted)) {
          if (part.kind === 'lines' && given.kind === 'choice') continue
          const [left, right, top, bottom] = reach(part)
          // Strokes are as wide as a pen, half of it on either side.
          const pen = part.kind === 'ink' ? 0.02 * part.scale : 2
          expect(left).to.be.at.least(blank.x - pen)
          expect(right).to.be.at.most(blank.x + blank.width + pen)
          expect(top).to.be.at.least(blank.y - 8 - pen)
          expect(bottom).to.be.at.most(blank.y + blank.height + pen)
          expect(part.page).to.equal(blank.page)
        }
      }),
    )
  })

  it('leaves the right part of a signature’s place to whose it is', () => {
    fc.assert(
      fc.property(place, value, (blank, given) => {
        if (given.kind !== 'typed' && given.kind !== 'drawn') return
        for (const part of stampParts(blank, given, true)) {
          const pen = part.kind === 'ink' ? 0.02 * part.scale : 0
          expect(reach(part)[1]).to.be.at.most(blank.x + blank.width * 0.6 + pen)
        }
      }),
    )
  })

  it('ticks each chosen option in its own box, on its own page', () => {
    fc.assert(
      fc.property(place, fc.uniqueArray(fc.integer({ min: 0, max: 3 })), (blank, chosen) => {
        const parts = stampParts(blank, { kind: 'choice', chosen }, false)
        expect(parts.map(({ page }) => page)).to.deep.equal(chosen.map((at) => blank.options[at]!.page))
        for (const [i, part] of parts.entries()) {
          const { x, y } = blank.options[chosen[i]!]!
          const [left, right, top, bottom] = reach(part)
          expect(left).to.be.at.least(x)
          expect(right).to.be.at.most(x + blank.width)
          expect(top).to.be.at.least(y)
          expect(bottom).to.be.at.most(y + blank.height)
        }
      }),
    )
  })
})
