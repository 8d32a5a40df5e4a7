import type { Filled } from './filled.ts'
import { inkOf } from './ink.ts'
import type { Script } from './signature.ts'
import type { PlacedBlank } from './signing.ts'

// How what a signer gives stands on the pages. The sealed file and the page that is signed on draw by these lines alone, so
// that what is seen is what is sealed. All measures are PDF points from the top left corner of the page.

/** A face that text on a place is set in: a hand for signatures, print for all else. */
export type Hand = Script | 'print'

/** The face of each: its family as the font files name it, and its weight. */
export const FACES: Readonly<Record<Hand, { readonly font: string; readonly weight: number }>> = {
  quick: { font: 'Caveat', weight: 600 },
  flowing: { font: 'Dancing Script', weight: 600 },
  round: { font: 'Kalam', weight: 400 },
  print: { font: 'Source Sans 3', weight: 400 },
}

/** One thing drawn on a page. */
export type StampPart = { readonly page: number } & (
  | {
      readonly kind: 'text'
      /** Where the text begins, and its base line. */
      readonly x: number
      readonly y: number
      /** As large as its place allows; smaller, in proportion, where it would be wider than `room`. */
      readonly size: number
      readonly room: number
      readonly hand: Hand
      readonly text: string
    }
  | {
      /** Outlines to be filled (non-zero), in their own measure: `scale` points each, with their origin at x and y. */
      readonly kind: 'ink'
      readonly x: number
      readonly y: number
      readonly scale: number
      readonly outlines: readonly (readonly (readonly [number, number])[])[]
    }
  | { readonly kind: 'lines'; readonly width: number; readonly lines: readonly Line[] }
  | {
      /** As large as its box allows, in the middle of it. */
      readonly kind: 'picture'
      readonly x: number
      readonly y: number
      readonly width: number
      readonly height: number
      readonly sha256: string
    }
)

/** Words as they stand on a page. */
export type WordsPart = Extract<StampPart, { kind: 'text' }>

/** From x and y to x and y. */
export type Line = readonly [number, number, number, number]

type Place = Pick<PlacedBlank, 'page' | 'x' | 'y' | 'width' | 'height'>

/** The part of a signature's place that the signature has; the rest is for whose it is, when and by which proof. */
const OWN_SHARE = 0.58
/** Room that is left before and behind a text. */
const INDENT = 2
/**
 * How words are set: their share of a place's height, the most points they are high, and what their base line is above the line
 * that is printed there.
 */
const SET = {
  hand: { share: 0.95, most: 30, rise: 1.5 },
  print: { share: 0.78, most: 11, rise: 2.5 },
} as const
const CROSS = { inset: 1.5, width: 1.2 } as const

/** What is drawn where for a value in its blank. `noted`: beside a signature stands whose it is. */
export function stampParts(
  blank: Pick<PlacedBlank, 'page' | 'x' | 'y' | 'width' | 'height' | 'options'>,
  value: Filled,
  noted: boolean,
): readonly StampPart[] {
  const width = noted ? blank.width * OWN_SHARE : blank.width
  const { page, x, y, height } = blank
  switch (value.kind) {
    case 'text':
      return [words(blank, 'print', value.text)]
    case 'file':
      return [words(blank, 'print', value.name)]
    case 'typed':
      return [words({ ...blank, width }, value.script ?? 'quick', value.text)]
    case 'drawn': {
      // A hand goes a little beyond its line.
      const scale = Math.min(width, (height + 8) / value.height)
      return [
        { page, kind: 'ink', x, y: y + height - value.height * scale, scale, outlines: inkOf(value.strokes) },
      ]
    }
    case 'picture':
      return [
        { page, kind: 'picture', x: x + INDENT, y: y + 1, width, height: height - 2, sha256: value.sha256 },
      ]
    case 'tick':
      return [cross(blank)]
    case 'choice':
      return value.chosen.flatMap((at) => {
        const place = blank.options?.[at]
        return place ? [cross({ ...place, width: blank.width, height })] : []
      })
    default:
      return value satisfies never
  }
}

/** Words in a place, in a hand or in print. */
export function words({ page, x, y, width, height }: Place, hand: Hand, text: string): WordsPart {
  const { share, most, rise } = SET[hand === 'print' ? 'print' : 'hand']
  return {
    page,
    kind: 'text',
    x: x + INDENT,
    y: y + height - rise,
    size: Math.min(height * share, most),
    room: width - 2 * INDENT,
    hand,
    text,
  }
}

function cross({ page, x, y, width, height }: Place): StampPart {
  const { inset } = CROSS
  const [left, right, top, bottom] = [x + inset, x + width - inset, y + inset, y + height - inset]
  return {
    page,
    kind: 'lines',
    width: CROSS.width,
    lines: [
      [left, top, right, bottom],
      [left, bottom, right, top],
    ],
  }
}
