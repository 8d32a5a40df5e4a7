import type { Area, Point } from '#core/ceremony/marks.ts'
import { apart } from '../apart.ts'

/** A page that came back, by the code on it, with the places on it that were to be written in, in points from the top left. */
export interface BackPage {
  readonly page: number
  readonly picture: Uint8Array
  /** Corners of the code as shares of the picture: top left, top right, bottom right, bottom left of the code itself. */
  readonly corners: readonly Point[]
  readonly places: readonly (Area & { readonly id: string })[]
}

/** What the program that compares is given before the bytes of the print and of the pictures. */
export interface MarksAsked {
  readonly print: number
  readonly pages: readonly (Omit<BackPage, 'picture'> & { readonly bytes: number })[]
}

/**
 * Of each page, by its number, the places in which nothing was written: the print that it was made from has as much there. Drawn
 * in a process of its own, as all that native code draws of what comes from outside.
 */
export async function emptyPlaces(
  print: Uint8Array,
  pages: readonly BackPage[],
): Promise<ReadonlyMap<number, readonly string[]>> {
  if (pages.length === 0) return new Map()
  const asked: MarksAsked = {
    print: print.length,
    pages: pages.map(({ picture, ...page }) => ({ ...page, bytes: picture.length })),
  }
  const head = Buffer.from(JSON.stringify(asked))
  const length = Buffer.alloc(4)
  length.writeUInt32BE(head.length)
  const answer = await apart(
    'server/convert/scan/paper-marks',
    Buffer.concat([length, head, print, ...pages.map(({ picture }) => picture)]),
    { seconds: 50, heap: 512, answer: 1_000_000 },
  )
  return new Map(JSON.parse(answer.toString('utf8')) as [number, readonly string[]][])
}
