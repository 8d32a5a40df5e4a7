import { expect } from 'chai'
import fc from 'fast-check'
import { fitPoints, type Grey, inkBeyond, type Point } from '#core/ceremony/marks.ts'

/** A white page with printed words as bars, shifted, in some light. */
function page(dx = 0, dy = 0, light = (_x: number, _y: number) => 1): Grey & { readonly values: Uint8Array } {
  const [width, height] = [400, 300]
  const values = new Uint8Array(width * height).fill(255)
  const bar = (x: number, y: number, w: number, h: number) => {
    for (let v = y; v < y + h; v++)
      for (let u = x; u < x + w; u++)
        if (u + dx >= 0 && v + dy >= 0 && u + dx < width && v + dy < height)
          values[(v + dy) * width + u + dx] = 20
  }
  for (let line = 0; line < 6; line++)
    for (let word = 0; word < 9; word++)
      bar(30 + word * 37 + ((line * 7) % 11), 30 + line * 22, 20 + ((word * line) % 9), 7)
  bar(120, 230, 160, 2)
  for (let i = 0; i < values.length; i++)
    values[i] = Math.min(255, values[i]! * light(i % width, Math.floor(i / width)))
  return { width, height, values }
}

const PLACE = { x: 120, y: 196, width: 160, height: 34 }

describe('marks on paper', () => {
  it('are none on the print itself, wherever it lies and in whatever light', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -15, max: 15 }),
        fc.integer({ min: -15, max: 15 }),
        fc.double({ min: 0.5, max: 1, noNaN: true }),
        fc.double({ min: -0.0008, max: 0.0008, noNaN: true }),
        (dx, dy, bright, slope) => {
          const scan = page(dx, dy, (x, y) => bright + slope * (x + y) * 0.3)
          expect(inkBeyond(page(), scan, PLACE)).to.equal(0)
        },
      ),
      { numRuns: 40 },
    )
  })

  it('are the pixels of a stroke, and of none that is elsewhere', () => {
    const signed = page(6, -4)
    for (let x = 140; x < 240; x++)
      for (let thick = 0; thick < 3; thick++)
        signed.values[(205 + Math.round(8 * Math.sin(x / 6)) + thick) * signed.width + x + 6] = 70
    expect(inkBeyond(page(), signed, PLACE)).to.be.within(200, 310)
    expect(inkBeyond(page(), signed, { ...PLACE, y: 150, height: 20 })).to.equal(0)
  })

  it('are found through the turn that brings four points onto others', () => {
    const points: Point[] = [
      [0, 0],
      [40, 0],
      [40, 40],
      [0, 40],
    ]
    fc.assert(
      fc.property(
        fc.double({ min: -Math.PI, max: Math.PI, noNaN: true }),
        fc.double({ min: 0.2, max: 4, noNaN: true }),
        fc.tuple(fc.integer({ min: -500, max: 500 }), fc.integer({ min: -500, max: 500 })),
        (turn, scale, [x, y]) => {
          const [cos, sin] = [scale * Math.cos(turn), scale * Math.sin(turn)]
          const [a, b, c, d, e, f] = fitPoints(
            points,
            points.map(([u, v]): Point => [cos * u - sin * v + x, sin * u + cos * v + y]),
          )
          for (const [got, wanted] of [
            [a, cos],
            [b, -sin],
            [c, x],
            [d, sin],
            [e, cos],
            [f, y],
          ] as const)
            expect(got).to.be.closeTo(wanted, 1e-6)
        },
      ),
    )
  })
})
