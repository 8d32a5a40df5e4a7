import { perObject } from '../per-object.ts'
import { linesOf } from './lines.ts'
import type { PageRead, PageWord } from './page-read.ts'

/** A phrase where it stands: `x` its left end, `base` its first line's baseline; `right` the end of its first line. */
export interface FoundPhrase {
  /** Place of its page among the pages that were searched, from 0. */
  readonly page: number
  readonly x: number
  readonly base: number
  readonly right: number
}

/** A text as it is compared: case, accents, spaces, hyphens and the breaks of lines make no difference. */
export const folded = (text: string): string =>
  text
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[\p{M}\p{Z}\p{C}\s\-\u2010-\u2015\u00ad]/gu, '')

interface Stream {
  /** All letters of a page, folded. */
  readonly text: string
  /** For each word where its letters begin in the text. */
  readonly begins: readonly number[]
  readonly words: readonly PageWord[]
}

const streamOf = (words: readonly PageWord[]): Stream => {
  const begins: number[] = []
  let text = ''
  for (const word of words) {
    begins.push(text.length)
    text += folded(word.text)
  }
  return { text, begins, words }
}

/** The words of a page as they follow in the file, and as they follow on paper: a phrase may run on in either. */
const streamsOf = perObject((page: PageRead): readonly Stream[] => [
  streamOf(page.words),
  streamOf(linesOf(page).flatMap(({ words }) => words)),
])

/** The word in which the letter of a place stands, by its place in the list. */
function wordAt({ begins }: Stream, at: number): number {
  let [low, high] = [0, begins.length - 1]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (begins[middle]! <= at) low = middle
    else high = middle - 1
  }
  return low
}

/** Every place of a phrase on pages, from the first page on, top to bottom. */
export function findPhrase(pages: readonly PageRead[], phrase: string): readonly FoundPhrase[] {
  const sought = folded(phrase)
  if (sought === '') return []
  return pages.flatMap((page, i) => {
    const [asFiled, asPrinted] = streamsOf(page) as [Stream, Stream]
    const found = occurrences(asFiled, sought, i)
    const all = found.length ? found : occurrences(asPrinted, sought, i)
    return [...all].sort((a, b) => a.base - b.base || a.x - b.x)
  })
}

function occurrences(stream: Stream, sought: string, page: number): readonly FoundPhrase[] {
  const found: FoundPhrase[] = []
  for (let at = stream.text.indexOf(sought); at >= 0; at = stream.text.indexOf(sought, at + sought.length)) {
    const first = wordAt(stream, at)
    const last = wordAt(stream, at + sought.length - 1)
    const word = stream.words[first]!
    const letters = folded(word.text)
    // A phrase may begin inside of a word; its letters are taken as equally wide then.
    const into = letters.length ? (at - stream.begins[first]!) / letters.length : 0
    let right = word.x + word.width
    for (let i = first + 1; i <= last; i++) {
      const next = stream.words[i]!
      if (Math.abs(next.base - word.base) > 0.35 * word.size) break
      right = Math.max(right, next.x + next.width)
    }
    found.push({ page, x: word.x + into * word.width, base: word.base, right })
  }
  return found
}
