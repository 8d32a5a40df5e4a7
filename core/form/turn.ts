import type { Box, FormPage, Placement, Turn } from '../document/tree.ts'
import type { PageRead } from './page-read.ts'

/** A rectangle of a page of this size after the page is turned clockwise. */
export function turnedBox(
  { x, y, width, height }: Box,
  page: { width: number; height: number },
  turn: Turn,
): Box {
  switch (turn) {
    case 0:
      return { x, y, width, height }
    case 90:
      return { x: page.height - y - height, y: x, width: height, height: width }
    case 180:
      return { x: page.width - x - width, y: page.height - y - height, width, height }
    case 270:
      return { x: y, y: page.width - x - width, width: height, height: width }
  }
}

/** What was read of a page as it is after its turn. Words of a page on its side stand on no baseline of ours: they are left out. */
export function turnedRead(read: PageRead, turn: Turn): PageRead {
  if (turn === 0) return read
  const across = turn === 90 || turn === 270
  return {
    width: across ? read.height : read.width,
    height: across ? read.width : read.height,
    words: [],
    lines: read.lines.map(({ x1, y1, x2, y2 }) => {
      const { x, y, width, height } = turnedBox({ x: x1, y: y1, width: x2 - x1, height: y2 - y1 }, read, turn)
      return { x1: x, y1: y, x2: x + width, y2: y + height }
    }),
    boxes: read.boxes.map((box) => turnedBox(box, read, turn)),
  }
}

/** A page turned once more, clockwise, with everything on it. What stands beside a phrase loses it: the phrase is turned too. */
export function turnPage(page: FormPage, by: Turn): FormPage {
  const { width, height, turn } = page.attrs
  const across = by === 90 || by === 270
  return {
    ...page,
    attrs: {
      ...page.attrs,
      turn: ((turn + by) % 360) as Turn,
      width: across ? height : width,
      height: across ? width : height,
    },
    content: page.content.map((placement) => turnedPlacement(placement, page.attrs, by)),
  }
}

const turnedPlacement = (
  placement: Placement,
  page: { width: number; height: number },
  by: Turn,
): Placement => {
  const { cue: _cue, ticks, ...attrs } = placement.attrs
  return {
    ...placement,
    attrs: {
      ...attrs,
      // Words stay upright: the place keeps its size around its middle.
      ...upright(attrs, turnedBox(attrs, page, by)),
      ...(ticks
        ? {
            ticks: {
              ...ticks,
              at: ticks.at.map(({ x, y }) => {
                const { x: left, y: top } = turnedBox(
                  { x, y, width: ticks.size, height: ticks.size },
                  page,
                  by,
                )
                return { x: left, y: top }
              }),
            },
          }
        : {}),
    },
  }
}

const upright = ({ width, height }: Box, turned: Box): Box => ({
  x: turned.x + turned.width / 2 - width / 2,
  y: turned.y + turned.height / 2 - height / 2,
  width,
  height,
})
