import { getStroke } from 'perfect-freehand'
import type { Strokes } from './signature.ts'

/** Width of a line where the hand neither presses nor hurries, where the box is 1 wide. */
const WIDTH = 0.014
/** The package thinks in pixels: the box is drawn as wide as so many. */
const SIDE = 400

/**
 * The outlines of drawn strokes, to be filled: smooth, and thick and thin as the pen pressed or, where it tells nothing of that, as
 * the hand hurried. Points in the same box as the strokes'. Page and document draw the same, so what is signed is what was seen.
 */
export const inkOf = (strokes: Strokes): readonly (readonly (readonly [number, number])[])[] =>
  strokes.map((stroke) => {
    const presses = stroke.some((point) => point.length === 3)
    // A dot is a short line, for a line of no length has no outline.
    const [first] = stroke
    const line = stroke.length === 1 ? [first!, [first![0] + WIDTH / 4, first![1]] as const] : stroke
    return getStroke(
      line.map(([x, y, pressure]) => [x * SIDE, y * SIDE, pressure ?? 0.5]),
      {
        size: WIDTH * SIDE,
        thinning: 0.55,
        smoothing: 0.5,
        streamline: 0.35,
        simulatePressure: !presses,
        last: true,
      },
    ).map(([x = 0, y = 0]): [number, number] => [x / SIDE, y / SIDE])
  })
