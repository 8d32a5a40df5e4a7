import type { Box } from '../document/tree.ts'
import { linesOf } from './lines.ts'
import type { PageRead } from './page-read.ts'
import { perObject } from '../per-object.ts'

/** Where edges of placements hold on: places across and down the page, in points. */
export interface SnapLines {
  readonly across: readonly number[]
  readonly down: readonly number[]
}

/** Letters set in a placement stand this far above its lower edge: so much below a baseline its edge goes. */
const BASELINE_LIFT = 2.2

/** Lines and frames of a page, and the baselines and beginnings of what is printed on it. */
export const snapLines = perObject((page: PageRead): SnapLines => {
  const across = new Set<number>()
  const down = new Set<number>()
  for (const { x1, x2, y1, y2 } of page.lines) {
    across.add(x1).add(x2)
    down.add(y1).add(y2)
  }
  for (const { x, y, width, height } of page.boxes) {
    across.add(x).add(x + width)
    down.add(y).add(y + height)
  }
  for (const { words, base } of linesOf(page)) {
    down.add(base + BASELINE_LIFT)
    if (words[0]) across.add(words[0].x)
  }
  return { across: [...across].sort((a, b) => a - b), down: [...down].sort((a, b) => a - b) }
})

/** A box held on to what is near it, within `reach` points; and the lines it holds on to. */
export function snapped(
  box: Box,
  { across, down }: SnapLines,
  reach: number,
): { readonly box: Box; readonly x: number | null; readonly y: number | null } {
  const x = best([box.x, box.x + box.width], across, reach)
  const y = best([box.y, box.y + box.height], down, reach)
  return {
    box: { ...box, x: box.x + (x?.by ?? 0), y: box.y + (y?.by ?? 0) },
    x: x?.line ?? null,
    y: y?.line ?? null,
  }
}

/** Frames larger than this hold text of the page's own, and are no place for one thing; in points. */
const LARGEST = { width: 320, height: 80 }

/** The smallest frame of a page that a point lies in: a box to tick, a cell, a frame to write in. */
export const frameAt = (
  { boxes }: PageRead,
  { x, y }: { readonly x: number; readonly y: number },
): Box | null =>
  boxes
    .filter(
      (box) =>
        box.width <= LARGEST.width &&
        box.height <= LARGEST.height &&
        x >= box.x &&
        x <= box.x + box.width &&
        y >= box.y &&
        y <= box.y + box.height,
    )
    .sort((a, b) => a.width * a.height - b.width * b.height)[0] ?? null

/** The nearest line to any of some edges; ties go to the earlier edge. */
function best(edges: readonly number[], lines: readonly number[], reach: number) {
  let found: { by: number; line: number } | null = null
  for (const edge of edges)
    for (const line of lines) {
      const by = line - edge
      if (Math.abs(by) <= reach && (!found || Math.abs(by) < Math.abs(found.by))) found = { by, line }
    }
  return found
}
