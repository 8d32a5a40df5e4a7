import { type Canvas, createCanvas } from '@napi-rs/canvas'
import { type Dots as DarkDots, dotsOf } from './scans.ts'

// Paper that was photographed: its edges are found, it is cut out, set straight and lightened, and is a page like a scanned one.

/** Dots of the longer side of the picture in which edges are looked for. */
const LOOKED_AT = 420
/** Shares of the picture that the paper may take up: less is no page, more is a scan. */
const LEAST = 0.2
const MOST = 0.93
/** How much of the shape between its corners has to be paper, for it to be a sheet. */
const FILLED = 0.93
/** A side is that much of the one across from it at the least: of what lies flatter no letter can be read. */
const SLANTED = 0.55

type Point = readonly [x: number, y: number]
type Corners = readonly [topLeft: Point, topRight: Point, bottomRight: Point, bottomLeft: Point]

/** The paper on a photograph as a page of its own; null where no sheet of paper stands out from what it lies on. */
export function paperOn(photograph: Canvas): Canvas | null {
  const corners = cornersOf(photograph)
  return corners && lightened(flattened(photograph, corners))
}

/** Where the four corners of the paper are, in dots of the photograph. */
function cornersOf(photograph: Canvas): Corners | null {
  const scale = Math.min(1, LOOKED_AT / Math.max(photograph.width, photograph.height))
  const dots = dotsOf(photograph, scale)
  const { width, height } = dots
  if (Math.min(width, height) < 40) return null
  const paper = largestLight(dots)
  const share = paper.length / (width * height)
  if (share < LEAST || share > MOST) return null
  const at = (place: number): Point => [place % width, Math.floor(place / width)]
  const furthest = (along: (point: Point) => number): Point => {
    let [best, most] = [at(paper[0]!), -Infinity]
    for (const place of paper) {
      const point = at(place)
      const far = along(point)
      if (far > most) [best, most] = [point, far]
    }
    return best
  }
  const found: Corners = [
    furthest(([x, y]) => -x - y),
    furthest(([x, y]) => x - y),
    furthest(([x, y]) => x + y),
    furthest(([x, y]) => y - x),
  ]
  if (!isSheet(found, paper.length)) return null
  return found.map(([x, y]): Point => [(x + 0.5) / scale, (y + 0.5) / scale]) as unknown as Corners
}

const length = ([ax, ay]: Point, [bx, by]: Point): number => Math.hypot(bx - ax, by - ay)

function isSheet([a, b, c, d]: Corners, filled: number): boolean {
  const around = [a, b, c, d]
  const area =
    Math.abs(
      around.reduce((sum, [x, y], i) => {
        const [nextX, nextY] = around[(i + 1) % 4]!
        return sum + x * nextY - nextX * y
      }, 0),
    ) / 2
  const alike = (one: number, other: number) => Math.min(one, other) / Math.max(one, other) >= SLANTED
  return (
    filled / area >= FILLED &&
    filled / area <= 1.15 &&
    alike(length(a, b), length(d, c)) &&
    alike(length(a, d), length(b, c))
  )
}

/** Places of the largest light patch, with the dark signs inside of its rows filled. */
function largestLight({ dark, width, height }: DarkDots): Int32Array {
  const seen = new Uint8Array(dark.length)
  let largest: number[] = []
  for (let start = 0; start < dark.length; start++) {
    if (dark[start] || seen[start]) continue
    const patch = [start]
    seen[start] = 1
    for (const place of patch) {
      const x = place % width
      for (const next of [
        x > 0 ? place - 1 : -1,
        x < width - 1 ? place + 1 : -1,
        place - width,
        place + width,
      ])
        if (next >= 0 && next < dark.length && !dark[next] && !seen[next]) {
          seen[next] = 1
          patch.push(next)
        }
    }
    if (patch.length > largest.length) largest = patch
  }
  // What is written on the paper belongs to it: each row is paper from its first dot to its last.
  const [first, last] = [new Int32Array(height).fill(-1), new Int32Array(height).fill(-1)]
  for (const place of largest) {
    const [x, y] = [place % width, Math.floor(place / width)]
    if (first[y] === -1 || x < first[y]!) first[y] = x
    if (x > last[y]!) last[y] = x
  }
  const whole: number[] = []
  for (let y = 0; y < height; y++)
    if (first[y]! >= 0) for (let x = first[y]!; x <= last[y]!; x++) whole.push(y * width + x)
  return Int32Array.from(whole)
}

/** Dots of the longer side of a page: 200 to an inch of Letter, as scans are read. */
const MOST_DOTS = 2200

/** What lies between four corners, as a rectangle as wide and high as its sides are on average. */
function flattened(photograph: Canvas, [a, b, c, d]: Corners): Canvas {
  const [across, down] = [(length(a, b) + length(d, c)) / 2, (length(a, d) + length(b, c)) / 2]
  const smaller = Math.min(1, MOST_DOTS / Math.max(across, down))
  const [width, height] = [Math.round(across * smaller), Math.round(down * smaller)]
  const from = photograph.getContext('2d').getImageData(0, 0, photograph.width, photograph.height)
  const made = createCanvas(width, height)
  const to = made.getContext('2d').createImageData(width, height)
  // The projection of the unit square onto the corners (Heckbert, 1989, 2.2).
  const [dx1, dy1] = [b[0] - c[0], b[1] - c[1]]
  const [dx2, dy2] = [d[0] - c[0], d[1] - c[1]]
  const [sx, sy] = [a[0] - b[0] + c[0] - d[0], a[1] - b[1] + c[1] - d[1]]
  const below = dx1 * dy2 - dx2 * dy1
  const [g, h] = [(sx * dy2 - dx2 * sy) / below, (dx1 * sy - sx * dy1) / below]
  const [xu, xv] = [b[0] - a[0] + g * b[0], d[0] - a[0] + h * d[0]]
  const [yu, yv] = [b[1] - a[1] + g * b[1], d[1] - a[1] + h * d[1]]
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const [u, v] = [(column + 0.5) / width, (row + 0.5) / height]
      const depth = g * u + h * v + 1
      put(
        to.data,
        (row * width + column) * 4,
        from,
        (xu * u + xv * v + a[0]) / depth,
        (yu * u + yv * v + a[1]) / depth,
      )
    }
  made.getContext('2d').putImageData(to, 0, 0)
  return made
}

interface Dots {
  readonly data: Uint8ClampedArray
  readonly width: number
  readonly height: number
}

/** The colour between four dots. */
function put(into: Uint8ClampedArray, at: number, { data, width, height }: Dots, x: number, y: number): void {
  const left = Math.max(0, Math.min(width - 2, Math.floor(x - 0.5)))
  const top = Math.max(0, Math.min(height - 2, Math.floor(y - 0.5)))
  const [right, down] = [Math.max(0, Math.min(1, x - 0.5 - left)), Math.max(0, Math.min(1, y - 0.5 - top))]
  const first = (top * width + left) * 4
  for (let channel = 0; channel < 3; channel++) {
    const upper = data[first + channel]! * (1 - right) + data[first + 4 + channel]! * right
    const lower =
      data[first + width * 4 + channel]! * (1 - right) + data[first + width * 4 + 4 + channel]! * right
    into[at + channel] = upper * (1 - down) + lower * down
  }
  into[at + 3] = 255
}

/** Patches across the longer side, of each of which the shade of the paper is taken. */
const PATCHES = 24
/** The share of a patch's dots that are darker than its paper. */
const INK = 0.8
const WHITE = 250
/** Dots over which the shade of the paper is taken for the same. */
const STEP = 8

/** Paper as white as paper is, however the light fell on it: each patch is divided by the shade of its own paper. */
function lightened(page: Canvas): Canvas {
  const { width, height } = page
  const pen = page.getContext('2d')
  const image = pen.getImageData(0, 0, width, height)
  const side = Math.max(8, Math.ceil(Math.max(width, height) / PATCHES))
  const [across, down] = [Math.ceil(width / side), Math.ceil(height / side)]
  const shades = new Float64Array(across * down)
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      const counts = new Uint32Array(256)
      let all = 0
      for (let y = row * side; y < Math.min(height, (row + 1) * side); y += 2)
        for (let x = column * side; x < Math.min(width, (column + 1) * side); x += 2) {
          counts[image.data[(y * width + x) * 4 + 1]!]!++
          all++
        }
      let [shade, below] = [0, 0]
      while (shade < 255 && below + counts[shade]! < all * INK) below += counts[shade++]!
      shades[row * across + column] = Math.max(60, shade)
    }
  const shadeAt = (x: number, y: number): number => {
    const column = Math.max(0, Math.min(across - 1, x / side - 0.5))
    const row = Math.max(0, Math.min(down - 1, y / side - 0.5))
    const [left, top] = [Math.floor(column), Math.floor(row)]
    const [right, bottom] = [Math.min(across - 1, left + 1), Math.min(down - 1, top + 1)]
    const [dx, dy] = [column - left, row - top]
    const upper = shades[top * across + left]! * (1 - dx) + shades[top * across + right]! * dx
    const lower = shades[bottom * across + left]! * (1 - dx) + shades[bottom * across + right]! * dx
    return upper * (1 - dy) + lower * dy
  }
  for (let y = 0; y < height; y++)
    for (let x = 0, by = 1; x < width; x++) {
      if (x % STEP === 0) by = WHITE / shadeAt(x, y)
      const at = (y * width + x) * 4
      for (let channel = 0; channel < 3; channel++) image.data[at + channel] = image.data[at + channel]! * by
    }
  pen.putImageData(image, 0, 0)
  return page
}
