import type { Box, Placement, PagesTree } from '../document/tree.ts'

// What is done to placements that are chosen together. A page's placements stay in their order.

/** What can be done with several places at once. */
export type Arrangement =
  | { readonly act: 'align'; readonly edge: 'left' | 'right' | 'top' | 'bottom' | 'center' | 'middle' }
  | { readonly act: 'distribute'; readonly way: 'across' | 'down' }
  | { readonly act: 'same size'; readonly side: 'width' | 'height' | 'both' }

type Places = ReadonlyMap<string, Box>

/** Where each of some places goes. The first one named is what the others are measured by. */
export function arranged(boxes: readonly (Box & { readonly id: string })[], how: Arrangement): Places {
  const [first] = boxes
  if (!first || boxes.length < 2) return new Map(boxes.map((box) => [box.id, box]))
  if (how.act === 'same size') {
    const { side } = how
    return new Map(
      boxes.map((box) => [
        box.id,
        {
          ...box,
          ...(side === 'height' ? {} : { width: first.width }),
          ...(side === 'width' ? {} : { height: first.height }),
        },
      ]),
    )
  }
  if (how.act === 'align') return new Map(boxes.map((box) => [box.id, onEdge(box, first, how.edge)]))
  return evenly(boxes, how.way)
}

function onEdge(box: Box, by: Box, edge: Extract<Arrangement, { act: 'align' }>['edge']): Box {
  switch (edge) {
    case 'left':
      return { ...box, x: by.x }
    case 'right':
      return { ...box, x: by.x + by.width - box.width }
    case 'center':
      return { ...box, x: by.x + (by.width - box.width) / 2 }
    case 'top':
      return { ...box, y: by.y }
    case 'bottom':
      return { ...box, y: by.y + by.height - box.height }
    case 'middle':
      return { ...box, y: by.y + (by.height - box.height) / 2 }
  }
}

/** The same gap between neighbours; the outermost two stay. */
function evenly(boxes: readonly (Box & { readonly id: string })[], way: 'across' | 'down'): Places {
  const [at, size] = way === 'across' ? (['x', 'width'] as const) : (['y', 'height'] as const)
  const inOrder = [...boxes].sort((a, b) => a[at] - b[at])
  const [first, last] = [inOrder[0]!, inOrder.at(-1)!]
  const taken = inOrder.reduce((sum, box) => sum + box[size], 0)
  const gap = (last[at] + last[size] - first[at] - taken) / (inOrder.length - 1)
  let next = first[at]
  return new Map(
    inOrder.map((box) => {
      const placed = { ...box, [at]: next }
      next += box[size] + gap
      return [box.id, placed]
    }),
  )
}

/** Placements with other boxes; squares to tick go along. A box stays on its page. */
export const withBoxes = (document: PagesTree, boxes: Places): PagesTree => ({
  ...document,
  content: document.content.map((page) =>
    page.content.some(({ attrs }) => boxes.has(attrs.id))
      ? {
          ...page,
          content: page.content.map((placement) => {
            const box = boxes.get(placement.attrs.id)
            return box ? moved(placement, box, page.attrs) : placement
          }),
        }
      : page,
  ),
})

const within = (at: number, size: number, room: number): number =>
  Math.max(Math.min(0, room - size), Math.min(at, Math.max(0, room - size)))

const LEAST_SIDE = 4

/** A placement with its upper left corner elsewhere, its squares to tick with it; cue and size stay as they are. */
export function shifted(placement: Placement, x: number, y: number): Placement {
  const { attrs } = placement
  const [right, down] = [x - attrs.x, y - attrs.y]
  return {
    ...placement,
    attrs: {
      ...attrs,
      x,
      y,
      ...(attrs.ticks
        ? {
            ticks: {
              ...attrs.ticks,
              at: attrs.ticks.at.map((at) => ({ x: at.x + right, y: at.y + down })),
            },
          }
        : {}),
    },
  }
}

/** A placement that somebody has looked at: it stands right. */
export function looked(placement: Placement): Placement {
  const { lost: _lost, ...attrs } = placement.attrs
  return { ...placement, attrs }
}

/** A placement in another box, on its page; a cue keeps its phrase and takes the new distance. */
export function moved(
  placement: Placement,
  { x, y, width, height }: Box,
  page: { readonly width: number; readonly height: number },
): Placement {
  const { attrs } = placement
  const [wide, high] = [Math.max(LEAST_SIDE, width), Math.max(LEAST_SIDE, height)]
  const [left, top] = [within(x, wide, page.width), within(y, high, page.height)]
  // Who moves it has looked.
  const there = looked(shifted(placement, left, top))
  const { cue } = attrs
  return {
    ...there,
    attrs: {
      ...there.attrs,
      width: wide,
      height: high,
      ...(cue ? { cue: { ...cue, dx: cue.dx + left - attrs.x, dy: cue.dy + top - attrs.y } } : {}),
    },
  }
}

/** A copy of a placement with ids of its own. One that a cue had made is free of it. */
export function copyOf(placement: Placement, newId: () => string, box: Partial<Box> = {}): Placement {
  const id = newId()
  const { of: _of, cue: _cue, ...attrs } = placement.attrs
  const there = { ...placement, attrs: { ...attrs, id } }
  const copy = {
    ...there,
    content: placement.content.map((part) =>
      part.type === 'blank' ? { ...part, attrs: { ...part.attrs, id: `${id}_b` } } : part,
    ),
  }
  return Object.keys(box).length ? moved(copy, { ...boxOf(copy), ...box }, EVERYWHERE) : copy
}

const EVERYWHERE = { width: Infinity, height: Infinity } as const

/** Where a placement stands, in points from the top left of its page. */
export const boxOf = ({ attrs: { x, y, width, height } }: Placement): Box => ({ x, y, width, height })
