import type { FormPage, PagesTree, Placement, TextCue } from '../document/tree.ts'
import { passageTitle } from '../document/walk.ts'
import { looked, shifted } from './arrange.ts'
import { cueTo, placeByCues, type ReadsOf } from './cues.ts'
import { foundAgain, neighboursOf, NEAR } from './found-again.ts'
import { isMarked, markedPlacement, means } from './marked.ts'
import type { FoundField, PageRead } from './page-read.ts'
import { findPhrase } from './phrases.ts'

/**
 * How a placement was found in another version. `not sure`: it stands where some of its neighbourhood is; `not found again`: where
 * it stood, if there is such a page. Both have to be looked at.
 */
export const CARRIED = [
  'by cue',
  'by its marker',
  'by the words beside it',
  'kept its place',
  'not sure',
  'not found again',
] as const

/** Whether somebody has to look where a placement stands now. */
export const isLost = (how: Carried['how']): boolean => how === 'not sure' || how === 'not found again'

/** Where a placement went when its file was replaced. Pages count from 1 in the whole document; points. */
export interface Carried {
  readonly id: string
  readonly title: string
  readonly how: (typeof CARRIED)[number]
  readonly from: { readonly page: number; readonly x: number; readonly y: number }
  readonly to: { readonly page: number; readonly x: number; readonly y: number }
}

/** A form over a new version of its file. */
export interface Replaced {
  readonly document: PagesTree
  /** What could not be found again first, then what moved the furthest. */
  readonly carried: readonly Carried[]
}

/** A new version of a file: its pages by number from 1. */
export interface NewFile {
  readonly file: string
  readonly pages: readonly PageRead[]
  /** Its own fields; markers among them say where things stand. */
  readonly fields?: readonly FoundField[] | undefined
}

/**
 * Puts another version in the place of a file, with everything placed on it. A placement with a cue goes where its phrase stands;
 * one without goes where its neighbourhood is (see `found-again.ts`). What is not found for sure is marked until somebody has
 * looked. `newId` makes ids for pages.
 */
export function replaceFile(
  document: PagesTree,
  old: string,
  next: NewFile,
  reads: ReadsOf,
  newId: () => string,
): Replaced {
  const first = document.content.findIndex(({ attrs }) => attrs.file === old)
  if (first < 0) return { document, carried: [] }
  const was = places(document)
  const pages = pagesOfNext(document, old, next, newId)
  const { onto, how } = carry(document, old, next, reads, newId, pages.length)
  const others = document.content.filter(({ attrs }) => attrs.file !== old)
  const at = document.content.slice(0, first).filter(({ attrs }) => attrs.file !== old).length
  const whole: PagesTree = {
    ...document,
    content: others.toSpliced(at, 0, ...pages.map((page, i) => ({ ...page, content: onto[i]! }))),
  }
  const cued = placeByCues(whole, (file, page) =>
    file === next.file ? next.pages[page - 1] : reads(file, page),
  )
  cued.faults.forEach(({ id }) => how.set(id, 'not found again'))
  const done = withLost(cued.document, how)
  const is = places(done)
  const carried = [...how].flatMap(([id, told]): Carried[] => {
    const [from, to] = [was.get(id), is.get(id)]
    return from && to ? [{ id, title: from.title, how: told, from: from.at, to: to.at }] : []
  })
  return { document: done, carried: carried.sort(worstFirst) }
}

/** The pages of the new version, empty: a page of the same number goes on with its id and its condition. */
function pagesOfNext(
  document: PagesTree,
  old: string,
  next: NewFile,
  newId: () => string,
): readonly FormPage[] {
  return next.pages.map(({ width, height }, i): FormPage => {
    const before = document.content.find(({ attrs }) => attrs.file === old && attrs.page === i + 1)
    return {
      type: 'page',
      attrs: {
        id: before?.attrs.id ?? newId(),
        condition: before?.attrs.condition ?? null,
        ...(before?.attrs.alternative ? { alternative: true } : {}),
        file: next.file,
        page: i + 1,
        turn: 0,
        width,
        height,
      },
      content: [],
    }
  })
}

/** What stands on the old pages, each on the new page where it belongs, and how that was found. */
function carry(
  document: PagesTree,
  old: string,
  next: NewFile,
  reads: ReadsOf,
  newId: () => string,
  count: number,
): { readonly onto: readonly Placement[][]; readonly how: Map<string, Carried['how']> } {
  const onto: Placement[][] = Array.from({ length: count }, () => [])
  const marked = [...(next.fields ?? []).filter(isMarked)]
  const how = new Map<string, Carried['how']>()
  for (const page of document.content) {
    if (page.attrs.file !== old) continue
    for (const placement of page.content) {
      const { id, cue, of } = placement.attrs
      if (of) continue
      const own = cue ? -1 : marked.findIndex((found) => means(placement, found))
      if (own >= 0) {
        const [found] = marked.splice(own, 1)
        const { x, y } = markedPlacement(id, found!).attrs
        onto[found!.page - 1]!.push(shifted(placement, x, y))
        how.set(id, 'by its marker')
        continue
      }
      const same = page.attrs.page <= count ? page.attrs.page - 1 : null
      const was = cue ? undefined : reads(old, page.attrs.page)
      const there = was && foundAgain(placement, was, next.pages, same)
      if (there) {
        onto[there.page]!.push(shifted(placement, there.x, there.y))
        const { x, y } = placement.attrs
        const stayed = there.page === same && Math.hypot(there.x - x, there.y - y) < 0.5
        how.set(id, !there.sure ? 'not sure' : stayed ? 'kept its place' : 'by the words beside it')
        continue
      }
      onto[same ?? count - 1]!.push(placement)
      how.set(id, cue ? 'by cue' : 'not found again')
    }
  }
  // What the new version names for the first time stands there too.
  for (const found of marked) onto[found.page - 1]?.push(markedPlacement(newId(), found))
  return { onto, how }
}

const worstFirst = (a: Carried, b: Carried): number => urgency(b) - urgency(a) || farOf(b) - farOf(a)

const urgency = ({ how }: Carried): number => (how === 'not found again' ? 2 : Number(isLost(how)))

/** How far something moved; a page counts more than any way on it. */
const farOf = ({ from, to }: Carried): number =>
  Math.abs(to.page - from.page) * 100_000 + Math.hypot(to.x - from.x, to.y - from.y)

const places = (document: PagesTree) =>
  new Map(
    document.content.flatMap((page, i) =>
      page.content.map(
        (placement) =>
          [
            placement.attrs.id,
            {
              title: passageTitle(placement),
              at: { page: i + 1, x: placement.attrs.x, y: placement.attrs.y },
            },
          ] as const,
      ),
    ),
  )

/** The words that a placement stands nearest to, where they stand only once on its page: a cue nobody had to give. */
export function wordsBeside(placement: Placement, read: PageRead | undefined): TextCue | null {
  const [nearest] = read ? neighboursOf(placement, read) : []
  if (!nearest || nearest.far >= NEAR) return null
  const [at] = findPhrase([read!], nearest.text)
  return cueTo(placement, nearest.text, 1, at!)
}

/** Placements that somebody has to look at are marked; what was marked and is found is not any more. A cue that leads nowhere is told by itself. */
const withLost = (document: PagesTree, how: ReadonlyMap<string, Carried['how']>): PagesTree => ({
  ...document,
  content: document.content.map((page) => ({
    ...page,
    content: page.content.map((placement) => {
      const told = how.get(placement.attrs.id)
      if (!told) return placement
      return isLost(told) && !placement.attrs.cue
        ? { ...placement, attrs: { ...placement.attrs, lost: true as const } }
        : looked(placement)
    }),
  })),
})
