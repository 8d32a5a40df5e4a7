import { expect } from 'chai'
import fc from 'fast-check'
import { TURNS } from '#core/document/tree.ts'
import { arranged, boxOf, copyOf, moved } from '#core/form/arrange.ts'
import { snapped } from '#core/form/snap.ts'
import { turnedBox, turnPage } from '#core/form/turn.ts'
import { anyBox, blankAt, pageOf } from './pages.ts'

const PAGE = { width: 612, height: 792 }
const someBoxes = fc
  .array(anyBox, { minLength: 2, maxLength: 8 })
  .map((boxes) => boxes.map((box, i) => ({ ...box, id: `b${i}` })))

describe('placements that are chosen together', () => {
  it('are put in line with the first, keeping their sizes (property)', () => {
    fc.assert(
      fc.property(
        someBoxes,
        fc.constantFrom('left', 'right', 'top', 'bottom', 'center', 'middle'),
        (boxes, edge) => {
          const placed = [...arranged(boxes, { act: 'align', edge }).values()]
          const at = (box: (typeof placed)[number]) =>
            ({
              left: box.x,
              right: box.x + box.width,
              top: box.y,
              bottom: box.y + box.height,
              center: box.x + box.width / 2,
              middle: box.y + box.height / 2,
            })[edge]
          for (const box of placed) expect(at(box)).to.be.closeTo(at(placed[0]!), 1e-9)
          expect(placed.map(({ width, height }) => [width, height])).to.deep.equal(
            boxes.map(({ width, height }) => [width, height]),
          )
        },
      ),
    )
  })

  it('get the same gaps, the outermost staying where they are (property)', () => {
    fc.assert(
      fc.property(someBoxes, (boxes) => {
        const placed = [...arranged(boxes, { act: 'distribute', way: 'down' }).values()].sort(
          (a, b) => a.y - b.y,
        )
        const inOrder = [...arranged(boxes, { act: 'distribute', way: 'down' })].map(([, box]) => box)
        const gaps = inOrder.slice(1).map((box, i) => box.y - (inOrder[i]!.y + inOrder[i]!.height))
        for (const gap of gaps) expect(gap).to.be.closeTo(gaps[0]!, 1e-6)
        expect(placed[0]!.y).to.be.at.most(Math.min(...boxes.map(({ y }) => y)) + 1e-6)
      }),
    )
  })

  it('never leave their page, and a cue keeps the new distance (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: -900, max: 1500 }), fc.integer({ min: -900, max: 1500 }), (x, y) => {
        const before = blankAt('b', 100, 100)
        const cued = { ...before, attrs: { ...before.attrs, cue: { phrase: 'x', nth: 1, dx: 5, dy: 5 } } }
        const { attrs } = moved(cued, { ...boxOf(before), x, y }, PAGE)
        expect(attrs.x).to.be.within(0, PAGE.width - attrs.width)
        expect(attrs.y).to.be.within(0, PAGE.height - attrs.height)
        expect(attrs.cue!.dx - 5).to.be.closeTo(attrs.x - 100, 1e-9)
        expect(attrs.cue!.dy - 5).to.be.closeTo(attrs.y - 100, 1e-9)
      }),
    )
  })

  it('are copied with ids of their own, the blanks in them too', () => {
    let n = 0
    const copy = copyOf(blankAt('b', 10, 10), () => `c${++n}`, { y: 40 })
    expect(copy.attrs).to.include({ id: 'c1', x: 10, y: 40 })
    expect(copy.content[0]).to.have.nested.property('attrs.id', 'c1_b')
  })

  it('hold on to the nearest line within reach, by their nearer edge, and to none beyond', () => {
    const lines = { across: [100, 300], down: [50] }
    expect(snapped({ x: 97, y: 20, width: 40, height: 10 }, lines, 5)).to.deep.include({ x: 100, y: null })
    expect(snapped({ x: 258, y: 38, width: 40, height: 10 }, lines, 5).box).to.include({ x: 260, y: 40 })
    expect(snapped({ x: 200, y: 200, width: 10, height: 10 }, lines, 5)).to.deep.include({ x: null, y: null })
  })
})

describe('a turned page', () => {
  it('turned once more until it is whole again is as it was (property)', () => {
    fc.assert(
      fc.property(anyBox, fc.constantFrom(...TURNS), (box, turn) => {
        const across = turn === 90 || turn === 270
        const back = turnedBox(
          turnedBox(box, PAGE, turn),
          across ? { width: PAGE.height, height: PAGE.width } : PAGE,
          ((360 - turn) % 360) as typeof turn,
        )
        for (const side of ['x', 'y', 'width', 'height'] as const)
          expect(back[side]).to.be.closeTo(box[side], 1e-9)
      }),
    )
  })

  it('takes along what stands on it, upright, on the page', () => {
    const page = turnPage(pageOf('p', 1, blankAt('b', 500, 20)), 90)
    expect(page.attrs).to.include({ turn: 90, width: 792, height: 612 })
    expect(page.content[0]!.attrs).to.include({ width: 120, height: 14 })
    expect(turnPage(page, 270).attrs).to.include({ turn: 0, width: 612, height: 792 })
  })
})
