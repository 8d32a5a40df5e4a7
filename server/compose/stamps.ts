import { inkOf } from '#core/agreement/ink.ts'
import type { Script } from '#core/agreement/signature.ts'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { BlankValue } from '#server/db/schema.ts'

/** A value and the blank it stands in. */
export interface Stamp {
  readonly blank: PlacedBlank
  readonly value: BlankValue
  /** Of a signature: whose it is, when it was given and by which proof, a line each (21 CFR 11.50). */
  readonly note?: readonly string[] | undefined
  /** Of a picture: its bytes. */
  readonly picture?: Uint8Array | undefined
}

/** The hands that signatures are typed in. */
const FONTS: Readonly<Record<Script, string>> = { quick: 'Caveat', flowing: 'Dancing Script', round: 'Kalam' }

/** Pictures of signatures, for the page program to find by their hash. */
export const stampPictures = (stamps: readonly Stamp[]) =>
  stamps.flatMap(({ value, picture }) =>
    value.kind === 'picture' && picture ? [{ name: value.sha256, bytes: picture }] : [],
  )

/** What stamps.typ draws: sizes of all pages, and each stamp with its place, in points from the top left. */
export interface StampData {
  readonly pages: readonly { readonly width: number; readonly height: number }[]
  readonly stamps: readonly object[]
}

export const stampData = (pages: StampData['pages'], stamps: readonly Stamp[]): StampData => ({
  pages,
  stamps: stamps.flatMap(({ blank, value, note = [] }): object[] => {
    const { page, x, y, width, height } = blank
    if (value.kind === 'choice')
      return value.chosen.flatMap((at) => {
        const place = blank.options?.[at]
        return place ? [{ ...place, width, height, kind: 'tick', note: [] }] : []
      })
    const shown =
      value.kind === 'drawn'
        ? { outlines: inkOf(value.strokes), boxHeight: value.height }
        : value.kind === 'tick'
          ? {}
          : value.kind === 'picture'
            ? { picture: value.sha256 }
            : value.kind === 'typed'
              ? { text: value.text, font: FONTS[value.script ?? 'quick'] }
              : { text: value.kind === 'file' ? value.name : value.text }
    return [{ page, x, y, width, height, kind: value.kind, note, ...shown }]
  }),
})
