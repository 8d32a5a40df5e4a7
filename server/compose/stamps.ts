import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { BlankValue } from '#server/db/schema.ts'

/** A value and the blank it stands in. */
export interface Stamp {
  readonly blank: PlacedBlank
  readonly value: BlankValue
}

/** What stamps.typ draws: sizes of all pages, and each stamp with its place, in points from the top left. */
export interface StampData {
  readonly pages: readonly { readonly width: number; readonly height: number }[]
  readonly stamps: readonly object[]
}

export const stampData = (pages: StampData['pages'], stamps: readonly Stamp[]): StampData => ({
  pages,
  stamps: stamps.map(({ blank: { page, x, y, width, height }, value }) => ({
    page,
    x,
    y,
    width,
    height,
    kind: value.kind,
    ...(value.kind === 'drawn' ? { strokes: value.strokes, boxHeight: value.height } : { text: value.text }),
  })),
})
