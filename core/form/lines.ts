import type { PageRead, PageWord } from './page-read.ts'

/** A line of words as it is printed, from left to right. */
export interface PrintedLine {
  readonly text: string
  readonly base: number
  readonly words: readonly PageWord[]
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
