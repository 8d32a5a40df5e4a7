import type { FormPage, PagesTree, Placement, TextCue } from '../document/tree.ts'
import { passageTitle } from '../document/walk.ts'
import { looked, shifted } from './arrange.ts'
import type { PageRead } from './page-read.ts'
import { findPhrase, type FoundPhrase } from './phrases.ts'
import { turnedRead } from './turn.ts'

/** What was read of a file's page; undefined where it is not known. `page` from 1. */
export type ReadsOf = (file: string, page: number) => PageRead | undefined

/** A cue that leads to no place, or to several where one is meant. */
export interface CueFault {
  /** The placement's, or the page's. */
  readonly id: string
  readonly title: string
  readonly message: string
}

/** Pages with their places where the cues are now, and the cues that were not found. */
export interface Cued {
  readonly document: PagesTree
  readonly faults: readonly CueFault[]
}

/** Pages as they are searched: in their order, turned as they are shown. */
export const readsInOrder = (pages: readonly FormPage[], reads: ReadsOf): readonly PageRead[] =>
  pages.map(({ attrs: { file, page, turn, width, height } }) => {
    const read = reads(file, page)
    return read ? turnedRead(read, turn) : { width, height, words: [], lines: [], boxes: [] }
  })

/**
 * Puts every placement that has a cue where its phrase stands now, on whatever page that is. One beside every occurrence is made
 * anew for each: the first keeps its id, the others carry the number of their occurrence behind it. A placement whose phrase is
 * not there stays where it is, and is told.
 */
export function placeByCues(document: PagesTree, reads: ReadsOf): Cued {
  const texts = readsInOrder(document.content, reads)
  const faults: CueFault[] = []
  const found = new Map<string, readonly FoundPhrase[]>()
  const phrase = (text: string) => {
    const known = found.get(text) ?? findPhrase(texts, text)
    found.set(text, known)
    return known
  }
  const onto: Placement[][] = document.content.map(() => [])
  document.content.forEach((page, i) => {
    for (const placement of page.content) {
      const { cue, of } = placement.attrs
      if (of) continue
      const places = cue ? chosen(phrase(cue.phrase), cue) : []
      if (cue && places.length === 0)
        faults.push({
          id: placement.attrs.id,
          title: passageTitle(placement),
          message: missing(cue, phrase(cue.phrase).length),
        })
      if (!cue || places.length === 0) {
        onto[i]!.push(placement)
        continue
      }
      places.forEach((place, nth) => onto[place.page]!.push(besides(placement, cue, place, nth)))
    }
  })
  return {
    document: { ...document, content: document.content.map((page, i) => ({ ...page, content: onto[i]! })) },
    faults,
  }
}

/** Cues of a document that do not lead where they say: each is told, before anything is sent. */
export function cueFaults(document: PagesTree, reads: ReadsOf): readonly CueFault[] {
  const texts = readsInOrder(document.content, reads)
  return document.content.flatMap((page, i) =>
    page.content.flatMap((placement): CueFault[] => {
      const { cue, of, id, x, y } = placement.attrs
      if (!cue || of) return []
      const all = findPhrase(texts, cue.phrase)
      const places = chosen(all, cue)
      const [first] = places
      const tell = (message: string) => [{ id, title: passageTitle(placement), message }]
      if (!first) return tell(missing(cue, all.length))
      const moved = Math.hypot(first.x + cue.dx - x, first.base + cue.dy - y)
      if (first.page !== i || moved > MOVED)
        return tell(
          `It does not stand beside “${cue.phrase}” any more. Let it follow its cue, or take the cue off.`,
        )
      if (cue.nth === 1 && all.length > 1)
        return tell(
          `“${cue.phrase}” stands ${all.length} times on these pages. Say which of them is meant, or choose a longer phrase.`,
        )
      return []
    }),
  )
}

/** Points that a placement may lie off its cue. */
const MOVED = 0.75

const missing = ({ phrase, nth }: TextCue, count: number): string =>
  count === 0 || nth === 'every'
    ? `The phrase “${phrase}” stands nowhere on these pages.`
    : `“${phrase}” stands ${count === 1 ? 'once' : `${count} times`} on these pages, and occurrence ${nth} is asked for.`

const chosen = (all: readonly FoundPhrase[], { nth }: TextCue): readonly FoundPhrase[] =>
  nth === 'every' ? all : all.slice(nth - 1, nth)

/** The placement beside one occurrence, from 0; blanks of further ones have ids of their own. */
function besides(placement: Placement, cue: TextCue, place: FoundPhrase, nth: number): Placement {
  const there = looked(shifted(placement, place.x + cue.dx, place.base + cue.dy))
  if (nth === 0) return there
  const { id } = placement.attrs
  return {
    ...there,
    attrs: { ...there.attrs, id: `${id}_${nth + 1}`, of: id, cue: null },
    content: placement.content.map((part) =>
      part.type === 'blank' ? { ...part, attrs: { ...part.attrs, id: `${part.attrs.id}_${nth + 1}` } } : part,
    ),
  }
}

/** A cue for a placement that keeps the distance it has to an occurrence now. */
export const cueTo = (
  { attrs: { x, y } }: Placement,
  phrase: string,
  nth: TextCue['nth'],
  place: FoundPhrase,
): TextCue => ({ phrase, nth, dx: x - place.x, dy: y - place.base })
