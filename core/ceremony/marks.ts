// Whether something was written on a printed page: what a scan shows more than the print.

/** A picture of grey values, 0 (black) to 255 (white), row by row from the top. */
export interface Grey {
  readonly width: number
  readonly height: number
  readonly values: Uint8Array | Uint8ClampedArray
}

/** A place on a picture, in its pixels from the top left. */
export interface Area {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** In pixels from the top left. */
export type Point = readonly [x: number, y: number]
/** x' = a·x + b·y + c and y' = d·x + e·y + f. */
export type Affine = readonly [a: number, b: number, c: number, d: number, e: number, f: number]

/** The turn, scale and shift that bring points onto others with the least squares of what is left (Umeyama 1991, without mirroring). */
export function fitPoints(from: readonly Point[], to: readonly Point[]): Affine {
  const mean = (points: readonly Point[], i: 0 | 1) =>
    points.reduce((sum, p) => sum + p[i], 0) / points.length
  const [fx, fy, tx, ty] = [mean(from, 0), mean(from, 1), mean(to, 0), mean(to, 1)]
  let [dot, cross, spread] = [0, 0, 0]
  for (const [i, [x, y]] of from.entries()) {
    const [u, v] = to[i]!
    dot += (x - fx) * (u - tx) + (y - fy) * (v - ty)
    cross += (x - fx) * (v - ty) - (y - fy) * (u - tx)
    spread += (x - fx) ** 2 + (y - fy) ** 2
  }
  const [cos, sin] = [dot / spread, cross / spread]
  return [cos, -sin, tx - cos * fx + sin * fy, sin, cos, ty - sin * fx - cos * fy]
}

/** Pixels that a scan may lie beside the print in either direction. */
const SHIFT = 22
/** Pixels around a place that are looked at to find how the scan lies there. */
const AROUND = 70
/** Pixels beside printed ink that are not looked at: a scan is never quite as sharp, nor quite in its place. */
const BESIDE = 4
/** Pixels that a stroke may stand out of its place. */
const OUTSIDE = 8
/** So much darker than the paper around it is ink. */
const DARKER = 0.82

/**
 * Pixels of ink that a scan has at a place and the print has not. Both pictures have the same scale; how the scan lies there is
 * found by the print's own ink around the place.
 */
export function inkBeyond(print: Grey, scan: Grey, place: Area): number {
  const window = within(print, grown(place, AROUND))
  const printed = inkOf(print, window)
  const seen = inkOf(scan, grown(window, SHIFT))
  const [dx, dy] = shiftOf(printed, seen)
  const near = spread(printed, BESIDE)
  const inside = within(print, grown(place, OUTSIDE))
  let beyond = 0
  for (let y = inside.y; y < inside.y + inside.height; y++)
    for (let x = inside.x; x < inside.x + inside.width; x++)
      if (isInk(seen, x + dx, y + dy) && !isInk(near, x, y)) beyond++
  return beyond
}

interface Ink {
  readonly area: Area
  readonly dark: Uint8Array
}

const isInk = ({ area, dark }: Ink, x: number, y: number): boolean =>
  x >= area.x &&
  y >= area.y &&
  x < area.x + area.width &&
  y < area.y + area.height &&
  dark[(y - area.y) * area.width + x - area.x] === 1

const grown = ({ x, y, width, height }: Area, by: number): Area => ({
  x: Math.floor(x - by),
  y: Math.floor(y - by),
  width: Math.ceil(width + 2 * by),
  height: Math.ceil(height + 2 * by),
})

function within({ width, height }: Grey, area: Area): Area {
  const x = Math.max(0, area.x)
  const y = Math.max(0, area.y)
  return {
    x,
    y,
    width: Math.max(0, Math.min(width, area.x + area.width) - x),
    height: Math.max(0, Math.min(height, area.y + area.height) - y),
  }
}

/** What is darker than the paper, whose brightness is measured tile by tile: light falls unevenly on a photograph. */
function inkOf(grey: Grey, area: Area): Ink {
  const dark = new Uint8Array(area.width * area.height)
  const at = (x: number, y: number): number =>
    x < 0 || y < 0 || x >= grey.width || y >= grey.height ? 255 : grey.values[y * grey.width + x]!
  const TILE = 24
  for (let top = 0; top < area.height; top += TILE)
    for (let left = 0; left < area.width; left += TILE) {
      const values: number[] = []
      const [bottom, right] = [Math.min(area.height, top + TILE), Math.min(area.width, left + TILE)]
      for (let y = top; y < bottom; y++)
        for (let x = left; x < right; x++) values.push(at(area.x + x, area.y + y))
      const paper = values.sort((a, b) => a - b)[Math.floor(values.length * 0.8)]!
      for (let y = top; y < bottom; y++)
        for (let x = left; x < right; x++)
          if (at(area.x + x, area.y + y) < paper * DARKER) dark[y * area.width + x] = 1
    }
  return { area, dark }
}

/** How far the scan lies beside the print: where most of its ink is found again; nowhere else than in place without any. */
function shiftOf(printed: Ink, seen: Ink): readonly [dx: number, dy: number] {
  const points: Point[] = []
  for (let y = 0; y < printed.area.height; y++)
    for (let x = 0; x < printed.area.width; x++)
      if (printed.dark[y * printed.area.width + x]) points.push([x + printed.area.x, y + printed.area.y])
  if (points.length < 40) return [0, 0]
  const step = Math.max(1, Math.floor(points.length / 1500))
  const some = points.filter((_, i) => i % step === 0)
  let best: readonly [number, number] = [0, 0]
  let most = -1
  for (let dy = -SHIFT; dy <= SHIFT; dy++)
    for (let dx = -SHIFT; dx <= SHIFT; dx++) {
      let found = 0
      for (const [x, y] of some) if (isInk(seen, x + dx, y + dy)) found++
      // Of equal ones the nearest.
      const score = found - (Math.abs(dx) + Math.abs(dy)) / 1000
      if (score > most) [most, best] = [score, [dx, dy]]
    }
  return best
}

/** Ink with all that is so near to it. */
function spread({ area, dark }: Ink, by: number): Ink {
  const wide = new Uint8Array(dark.length)
  for (let y = 0; y < area.height; y++)
    for (let x = 0; x < area.width; x++)
      if (dark[y * area.width + x])
        for (let v = Math.max(0, y - by); v <= Math.min(area.height - 1, y + by); v++)
          wide.fill(
            1,
            v * area.width + Math.max(0, x - by),
            v * area.width + Math.min(area.width, x + by + 1),
          )
  return { area, dark: wide }
}
