import type { PageRead, PageWord } from './page-read.ts'

/** A line of words as it is printed, from left to right. */
export interface PrintedLine {
  readonly text: string
  readonly base: number
  readonly words: readonly PageWord[]
}

/** A printed line that goes on in the next one ends this near to where the longest ends: a part of that one's width. */
const FULL = 0.88
/** Baselines of one paragraph are no further apart than this many times the letters' size. */
const LEADING = 1.6

/** Where the longest of some lines ends, in points from the left. */
export const rightEdge = (lines: readonly PrintedLine[]): number =>
  lines.reduce((most, { words }) => {
    const last = words.at(-1)
    return last ? Math.max(most, last.x + last.width) : most
  }, 0)

/**
 * Whether a line is the one before it going on: printed close below it, from the same edge, in the same size, that one full.
 * `right`: where the longest line of the page ends.
 */
export function goesOn(before: PrintedLine, line: PrintedLine, right: number): boolean {
  const [above, first] = [before.words[0], line.words[0]]
  const last = before.words.at(-1)
  if (!above || !first || !last) return false
  return (
    Math.abs(above.size - first.size) < 0.6 &&
    Math.abs(above.x - first.x) < 2 &&
    line.base - before.base <= LEADING * first.size &&
    last.x + last.width - above.x >= FULL * (right - above.x)
  )
}

/** Part of the letters' size that baselines of one line may differ by. */
const SAME_LINE = 0.35

/** The lines of a page from top to bottom: words whose baselines are the same, whatever order the file has them in. */
export function linesOf({ words }: Pick<PageRead, 'words'>): readonly PrintedLine[] {
  const lines: { base: number; words: PageWord[] }[] = []
  for (const word of [...words].sort((a, b) => a.base - b.base || a.x - b.x)) {
    const last = lines.at(-1)
    if (last && Math.abs(word.base - last.base) < SAME_LINE * word.size) last.words.push(word)
    else lines.push({ base: word.base, words: [word] })
  }
  return lines.map(({ base, words: own }) => {
    const inOrder = own.sort((a, b) => a.x - b.x)
    return { base, words: inOrder, text: inOrder.map(({ text }) => text).join(' ') }
  })
}
