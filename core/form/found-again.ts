import type { Placement } from '../document/tree.ts'
import { linesOf } from './lines.ts'
import type { PageRead, PageWord } from './page-read.ts'
import { findPhrase, folded } from './phrases.ts'

// Where a place without a cue is in another version of its file. It is known by its neighbourhood: the words beside it and
// lines around it that stand only once on its page. Each neighbour that is found says where the place would be; a place is
// found where enough of them say the same, its nearest among them. One word that happens to stand elsewhere proves nothing.

/** A place in another version, points; pages from 0. `sure`: its neighbourhood says so, not one word alone. */
export interface FoundAgain {
  readonly page: number
  readonly x: number
  readonly y: number
  readonly sure: boolean
}

/** Letters that words need to be a neighbour. */
const ENOUGH = 4
/** Points within which the nearest neighbour stands, and all. */
export const NEAR = 60
const AROUND = 170
const NEIGHBOURS = 7
/** Points that what two neighbours say may differ by: lines are set a little anew in each version. */
const SAME = 5
/** Neighbours that have to say the same, where there are as many. */
const AGREEING = 2
/** How much of a page has to stand where it stood for a place without neighbours to be kept. */
const UNCHANGED = 0.9

/** Words beside a place, and how far the place lies from their beginning. */
export interface Neighbour {
  readonly text: string
  readonly far: number
  readonly dx: number
  readonly dy: number
}

/** The words that stand around a place and only once on its page, the nearest first. */
export function neighboursOf(placement: Placement, read: PageRead): readonly Neighbour[] {
  const { x, y, width, height } = placement.attrs
  const middle = y + height / 2
  return linesOf(read)
    .flatMap((line) => {
      // Of the line it stands on only what is before it: what a label says; what is behind may be another's.
      const isOn = line.base >= y - 2 && line.base <= y + height + 6
      const words = isOn ? line.words.filter((word) => word.x + word.width <= x + 3) : line.words
      return words.length ? [{ words, base: line.base }] : []
    })
    .flatMap(({ words, base }) => {
      const [first] = words
      const last = words.at(-1)!
      const across = Math.max(0, first!.x - (x + width), x - (last.x + last.width))
      const far = Math.hypot(across / 2, base - middle)
      return far < AROUND ? [{ text: words.map((word) => word.text).join(' '), far }] : []
    })
    .filter(({ text }) => folded(text).length >= ENOUGH)
    .sort((a, b) => a.far - b.far)
    .flatMap(({ text, far }) => {
      const found = findPhrase([read], text)
      return found.length === 1 ? [{ text, far, dx: x - found[0]!.x, dy: y - found[0]!.base }] : []
    })
    .slice(0, NEIGHBOURS)
}

/** Where a place without a cue is in another version of its page's file. Null: nothing says where. */
export function foundAgain(
  placement: Placement,
  was: PageRead,
  pages: readonly PageRead[],
  /** The page of the same number in the other version, from 0; null: there is none. */
  same: number | null,
): FoundAgain | null {
  const neighbours = neighboursOf(placement, was)
  const [nearest] = neighbours
  if (!nearest || nearest.far >= NEAR) {
    const { x, y } = placement.attrs
    return same !== null && isUnchanged(was, pages[same]!) ? { page: same, x, y, sure: true } : null
  }
  const said = neighbours.map(({ text, dx, dy }) =>
    findPhrase(pages, text).map(({ page, x, base }) => ({ page, x: x + dx, y: base + dy })),
  )
  const proposals = said[0]!.map((at) => ({
    ...at,
    by: said.filter((each) => each.some((other) => isSame(at, other))).length,
  }))
  const [best, next] = proposals.sort((a, b) => b.by - a.by)
  if (!best) return null
  const wanted = Math.min(AGREEING, neighbours.length)
  const { page, x, y, by } = best
  const isAlone = neighbours.length === 1
  return {
    page,
    x,
    y,
    sure: by >= wanted && by > (next?.by ?? 0) && !(isAlone && !standsAsALine(pages[page]!, nearest.text)),
  }
}

interface At {
  readonly page: number
  readonly x: number
  readonly y: number
}

const isSame = (a: At, b: At): boolean =>
  a.page === b.page && Math.abs(a.x - b.x) <= SAME && Math.abs(a.y - b.y) <= SAME

/** Whether words begin a line of a page: inside of running text they are no label. */
const standsAsALine = (read: PageRead, text: string): boolean =>
  linesOf(read).some((line) => folded(line.text).startsWith(folded(text)))

/** Whether nearly all words of a page stand where they stood. */
function isUnchanged(was: PageRead, is: PageRead): boolean {
  const stands = (word: PageWord) =>
    is.words.some(
      (other) =>
        other.text === word.text && Math.abs(other.x - word.x) < 2 && Math.abs(other.base - word.base) < 2,
    )
  const kept = was.words.filter(stands).length
  return kept >= UNCHANGED * Math.max(was.words.length, is.words.length)
}
