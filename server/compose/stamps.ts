import { FACES, type StampPart, stampParts } from '#core/agreement/stamping.ts'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { Filled } from '#core/agreement/filled.ts'

/** A value and the blank it stands in. */
export interface Stamp {
  readonly blank: PlacedBlank
  readonly value: Filled
  /** Of a signature: whose it is, when it was given and by which proof, a line each (21 CFR 11.50). */
  readonly note?: readonly string[] | undefined
  /** Of a picture: its bytes. */
  readonly picture?: Uint8Array | undefined
}

/** Pictures of signatures, for the page program to find by their hash. */
export const stampPictures = (stamps: readonly Stamp[]) =>
  stamps.flatMap(({ value, picture }) =>
    value.kind === 'picture' && picture ? [{ name: value.sha256, bytes: picture }] : [],
  )

/** What stands beside a signature: its lines, in the box of the whole place. */
interface Note extends Pick<PlacedBlank, 'page' | 'x' | 'y' | 'width' | 'height'> {
  readonly lines: readonly string[]
}

/** What stamps.typ draws: sizes of all pages, and what stands on them, in points from the top left. */
export interface StampData {
  readonly pages: readonly { readonly width: number; readonly height: number }[]
  readonly parts: readonly (StampPart & { readonly font?: string; readonly weight?: number })[]
  readonly notes: readonly Note[]
}

/** What stamps.typ draws, for pages and what was filled in. */
export const stampData = (pages: StampData['pages'], stamps: readonly Stamp[]): StampData => ({
  pages,
  parts: stamps.flatMap(({ blank, value, note = [] }) =>
    stampParts(blank, value, note.length > 0).map((part) =>
      part.kind === 'text' ? { ...part, ...FACES[part.hand] } : part,
    ),
  ),
  notes: stamps.flatMap(({ blank: { page, x, y, width, height }, note = [] }) =>
    note.length ? [{ page, x, y, width, height, lines: note }] : [],
  ),
})
