import { inkOf } from '#core/agreement/ink.ts'
import type { Strokes } from '#core/agreement/signature.ts'

type Outline = readonly (readonly [number, number])[]

/** An outline as an SVG path to be filled; one that has no inside is none. */
export const outlinePath = (outline: Outline): string =>
  outline.length > 2
    ? `${outline.map(([x, y], i) => `${i ? 'L' : 'M'}${x.toFixed(4)} ${y.toFixed(4)}`).join('')}Z`
    : ''

/** A drawn signature as an SVG path, in a box as wide as 1: as the document will have it. */
export const inkPath = (strokes: Strokes): string => inkOf(strokes).map(outlinePath).join('')
