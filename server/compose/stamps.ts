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
  stamps: stamps.flatMap(({ blank, value }): object[] => {
    const { page, x, y, width, height } = blank
    if (value.kind === 'choice')
      return value.chosen.flatMap((at) => {
        const place = blank.options?.[at]
        return place ? [{ ...place, width, height, kind: 'tick' }] : []
      })
    const shown =
      value.kind === 'drawn'
        ? { strokes: value.strokes, boxHeight: value.height }
        : value.kind === 'tick'
          ? {}
          : { text: value.kind === 'file' ? value.name : value.text }
    return [{ page, x, y, width, height, kind: value.kind, ...shown }]
  }),
})
