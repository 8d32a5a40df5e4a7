import type { Say } from '../languages/speak.ts'
import { isSignature, isVisible } from '../text/pattern.ts'

/** Hands that a typed signature can be written in. */
export const SCRIPTS = ['quick', 'flowing', 'round'] as const
export type Script = (typeof SCRIPTS)[number]

/** A point of a line, and how hard the pen pressed there (0 to 1), where it tells. */
export type InkPoint = readonly [number, number] | readonly [number, number, number]
/** Lines as they were drawn, point by point, in the order of the pen. */
export type Strokes = readonly (readonly InkPoint[])[]

/** Far more than a hand draws in one signature; every look at the document draws them all. */
export const STROKE_LIMITS = { strokes: 60, points: 4000 } as const

/** Width of the box is 1; a signature has at least so much line inside of it. */
const LEAST_INK = 0.15

/** Why what was typed or drawn is no signature that anybody can see; null where it is one. */
export function signatureProblem(
  value:
    | { readonly kind: 'typed'; readonly text: string }
    | { readonly kind: 'drawn'; readonly strokes: Strokes; readonly height: number },
  say: Say,
): string | null {
  if (value.kind === 'typed') return isSignature(value.text) ? null : say('value.unseenName')
  const points = value.strokes.reduce((sum, stroke) => sum + stroke.length, 0)
  if (points > STROKE_LIMITS.points) return say('value.manyLines')
  return inkInside(value.strokes, value.height) >= LEAST_INK ? null : say('value.littleInk')
}

/** Length of the lines within the box, 1 wide and `height` high. */
function inkInside(strokes: Strokes, height: number): number {
  const isInside = ([x, y]: InkPoint) => x >= 0 && x <= 1 && y >= 0 && y <= height
  let length = 0
  for (const stroke of strokes)
    for (const [i, to] of stroke.entries()) {
      const from = stroke[i - 1]
      if (from && isInside(from) && isInside(to)) length += Math.hypot(to[0] - from[0], to[1] - from[1])
    }
  return length
}

/** Why a text says nothing that can be seen; null where it says something. */
export const textProblem = (label: string, text: string, say: Say): string | null =>
  isVisible(text) ? null : say('value.unseen', { label })
