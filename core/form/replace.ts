import type { FormPage, PagesTree, Placement, TextCue } from '../document/tree.ts'
import { passageTitle } from '../document/walk.ts'
import { shifted } from './arrange.ts'
import { cueTo, placeByCues } from './cues.ts'
import type { ReadsOf } from './cues.ts'
import { linesOf } from './lines.ts'
import { isMarked, markedPlacement, means } from './marked.ts'
import type { FoundField, PageRead } from './page-read.ts'
import { findPhrase, folded } from './phrases.ts'

/** Where a placement went when its file was replaced. Pages count from 1 in the whole document; points. */
export interface Carried {
  readonly id: string
  readonly title: string
  /** `by cue`, `by the words beside it`, `kept its place`, or `not found again`: it stands where it stood, if there is such a page. */
  readonly how: 'by cue' | 'by its marker' | 'by the words beside it' | 'kept its place' | 'not found again'
  readonly from: { readonly page: number; readonly x: number; readonly y: number }
  readonly to: { readonly page: number; readonly x: number; readonly y: number }
}

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
 * one without goes with the words it stands beside, where they stand once in the new version; else it keeps its place on the
 * page of the same number. `newId` makes ids for pages.
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
  // A page of the same number goes on with its id and its condition.
  const pages = next.pages.map(({ width, height }, i): FormPage => {
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
  const onto: Placement[][] = pages.map(() => [])
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
      const same = Math.min(page.attrs.page, pages.length) - 1
      const beside = cue ? null : wordsBeside(placement, reads(old, page.attrs.page))
      const there = beside && findPhrase(next.pages, beside.phrase)
      if (there?.length === 1) {
        const [at] = there
        onto[at!.page]!.push(shifted(placement, at!.x + beside!.dx, at!.base + beside!.dy))
        how.set(id, 'by the words beside it')
        continue
      }
      onto[same]!.push(placement)
      how.set(
        id,
        cue ? 'by cue' : beside || page.attrs.page > pages.length ? 'not found again' : 'kept its place',
      )
    }
  }
  // What the new version names for the first time stands there too.
  for (const found of marked) onto[found.page - 1]?.push(markedPlacement(newId(), found))
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
  const is = places(cued.document)
  const carried = [...how].flatMap(([id, told]): Carried[] => {
    const [from, to] = [was.get(id), is.get(id)]
    return from && to ? [{ id, title: from.title, how: told, from: from.at, to: to.at }] : []
  })
  return { document: cued.document, carried: carried.sort(worstFirst) }
}

const worstFirst = (a: Carried, b: Carried): number =>
  Number(b.how === 'not found again') - Number(a.how === 'not found again') || farOf(b) - farOf(a)

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

/** Letters that words beside a placement need to be known again, and points that they may be away. */
const ENOUGH = 4
const NEAR = 60

/** The line of words that a placement stands nearest to, where it stands only once on its page: a cue nobody had to give. */
export function wordsBeside(placement: Placement, read: PageRead | undefined): TextCue | null {
  if (!read) return null
  const { x, y, width, height } = placement.attrs
  const middle = y + height / 2
  const near = linesOf(read)
    .flatMap((line) => {
      // Of the line it stands on only what is before it: what a label says; what is behind may be another's.
      const onLine = line.base >= y - 2 && line.base <= y + height + 6
      const words = onLine ? line.words.filter((word) => word.x + word.width <= x + 3) : line.words
      const text = words.map((word) => word.text).join(' ')
      if (folded(text).length < ENOUGH) return []
      const [first] = words
      const last = words.at(-1)!
      const across = Math.max(0, first!.x - (x + width), x - (last.x + last.width))
      const down = Math.abs(line.base - middle)
      return [{ text, far: Math.hypot(across / 2, down), base: line.base }]
    })
    .filter(({ far }) => far < NEAR)
    .sort((a, b) => a.far - b.far)
  for (const { text } of near) {
    const found = findPhrase([read], text)
    if (found.length === 1) return cueTo(placement, text, 1, found[0]!)
  }
  return null
}
