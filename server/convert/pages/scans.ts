import { spawn } from 'node:child_process'
import { text } from 'node:stream/consumers'
import { type Canvas, createCanvas } from '@napi-rs/canvas'
import type { PageLine, PageWord } from '#core/form/page-read.ts'

// Pages that are pictures: set straight, their rules found among the dots, and their words read by tesseract where it is installed.

/** Degrees that a page on a scanner's glass lies askew at most, and from which it is worth setting straight. */
const MOST_ASKEW = 5
const ASKEW = 0.15

/** A size in dots. */
export interface Dots {
  readonly width: number
  readonly height: number
  /** One for each dot: 1 is dark. */
  readonly dark: Uint8Array
}

/** Dots of a picture, dark where they are darker than halfway between its paper and its ink. */
export function dotsOf(canvas: Canvas, scale = 1): Dots {
  const [width, height] = [
    Math.max(1, Math.round(canvas.width * scale)),
    Math.max(1, Math.round(canvas.height * scale)),
  ]
  const small = createCanvas(width, height)
  small.getContext('2d').drawImage(canvas, 0, 0, width, height)
  const { data } = small.getContext('2d').getImageData(0, 0, width, height)
  const grey = new Uint8Array(width * height)
  const counts = new Uint32Array(256)
  for (let i = 0; i < grey.length; i++) {
    const value = Math.round(data[i * 4]! * 0.3 + data[i * 4 + 1]! * 0.59 + data[i * 4 + 2]! * 0.11)
    grey[i] = value
    counts[value]!++
  }
  const edge = between(counts, grey.length)
  return { width, height, dark: grey.map((value) => (value <= edge ? 1 : 0)) }
}

/** The shade that parts dark from light best (Otsu, 1979). */
function between(counts: Uint32Array, all: number): number {
  const sum = counts.reduce((total, count, shade) => total + count * shade, 0)
  let [below, sumBelow, best, most] = [0, 0, 127, -1]
  for (let shade = 0; shade < 256; shade++) {
    below += counts[shade]!
    sumBelow += counts[shade]! * shade
    if (below === 0 || below === all) continue
    const apart = sumBelow / below - (sum - sumBelow) / (all - below)
    const score = below * (all - below) * apart * apart
    if (score > most) [best, most] = [shade, score]
  }
  return best
}

/** Degrees, clockwise, that a page's lines lie askew: turned back by so much they are sharpest from side to side. */
export function askewBy(dots: Dots): number {
  const points: number[] = []
  for (let y = 0; y < dots.height; y++)
    for (let x = 0; x < dots.width; x++) if (dots.dark[y * dots.width + x]) points.push(x, y)
  if (points.length < 400) return 0
  const step = Math.max(2, Math.ceil(points.length / 120_000) * 2)
  const sharp = (degrees: number): number => {
    const slope = Math.tan((degrees * Math.PI) / 180)
    const rows = new Float64Array(dots.height + Math.ceil(dots.width * 0.2) + 2)
    const offset = Math.ceil(dots.width * 0.1)
    for (let i = 0; i < points.length; i += step) {
      const row = Math.round(points[i + 1]! - points[i]! * slope) + offset
      if (row >= 0 && row < rows.length) rows[row]!++
    }
    return rows.reduce((sum, count) => sum + count * count, 0)
  }
  const best = (from: number, to: number, by: number): number => {
    let found = { degrees: 0, score: -1 }
    for (let degrees = from; degrees <= to + 1e-9; degrees += by) {
      const score = sharp(degrees)
      if (score > found.score) found = { degrees, score }
    }
    return found.degrees
  }
  const rough = best(-MOST_ASKEW, MOST_ASKEW, 0.5)
  const fine = best(rough - 0.5, rough + 0.5, 0.05)
  return Math.abs(fine) < ASKEW ? 0 : fine
}

/** A picture turned by degrees, clockwise, around its middle, on white. */
export function turnedBy(canvas: Canvas, degrees: number): Canvas {
  const straight = createCanvas(canvas.width, canvas.height)
  const context = straight.getContext('2d')
  context.fillStyle = '#fff'
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.translate(canvas.width / 2, canvas.height / 2)
  context.rotate((degrees * Math.PI) / 180)
  context.drawImage(canvas, -canvas.width / 2, -canvas.height / 2)
  return straight
}

/** Points from which a row of dark dots is a rule, and that it may be thick. */
const SHORTEST = 30
const THICKEST = 4

/** The rules of a picture, across and down, in points; `perPoint` are dots of a point. */
export function rulesOf({ width, height, dark }: Dots, perPoint: number): readonly PageLine[] {
  const runs = (length: number, count: number, at: (along: number, aside: number) => number) => {
    const found: { from: number; to: number; first: number; last: number }[] = []
    for (let aside = 0; aside < count; aside++) {
      let start = -1
      let gap = 0
      for (let along = 0; along <= length; along++) {
        const isDark = along < length && dark[at(along, aside)] === 1
        if (isDark) {
          if (start < 0) start = along
          gap = 0
        } else if (start >= 0 && (++gap > 2 || along === length)) {
          const end = along - gap
          if (end - start >= SHORTEST * perPoint) {
            const open = found.find((each) => each.last >= aside - 2 && each.from < end && each.to > start)
            if (open)
              Object.assign(open, {
                last: aside,
                from: Math.min(open.from, start),
                to: Math.max(open.to, end),
              })
            else found.push({ from: start, to: end, first: aside, last: aside })
          }
          start = -1
          gap = 0
        }
      }
    }
    return found.filter(({ first, last }) => last - first <= THICKEST * perPoint)
  }
  const across = runs(width, height, (x, y) => y * width + x).map(({ from, to, first, last }) => {
    const y = (first + last + 1) / 2 / perPoint
    return { x1: from / perPoint, x2: to / perPoint, y1: y, y2: y }
  })
  const down = runs(height, width, (y, x) => y * width + x).map(({ from, to, first, last }) => {
    const x = (first + last + 1) / 2 / perPoint
    return { x1: x, x2: x, y1: from / perPoint, y2: to / perPoint }
  })
  return [...across, ...down]
}

/** Part of certainty, in per cent, from which a word that was read counts. */
const SURE = 35

/** The words of a picture (PNG), in points; null where no program that reads is installed. */
export function wordsOnPicture(picture: Uint8Array, perPoint: number): Promise<readonly PageWord[] | null> {
  return new Promise((resolve) => {
    const reader = spawn(
      'tesseract',
      ['stdin', 'stdout', '--dpi', String(Math.round(perPoint * 72)), 'tsv'],
      {
        stdio: ['pipe', 'pipe', 'ignore'],
        timeout: 60_000,
        killSignal: 'SIGKILL',
        // One thread: the pages of others wait too.
        env: { PATH: process.env['PATH'], OMP_THREAD_LIMIT: '1' },
      },
    )
    reader.on('error', () => resolve(null))
    reader.stdin.on('error', () => undefined)
    reader.stdin.end(picture)
    void text(reader.stdout)
      .then((told) => resolve(wordsTold(told, perPoint)))
      .catch(() => resolve([]))
  })
}

/** Columns of tesseract's table of words. */
const COLUMN = { level: 0, left: 6, top: 7, width: 8, height: 9, sure: 10, text: 11 } as const
const WORD = '5'

function wordsTold(told: string, perPoint: number): readonly PageWord[] {
  return told.split('\n').flatMap((line): PageWord[] => {
    const cells = line.split('\t')
    if (cells[COLUMN.level] !== WORD || Number(cells[COLUMN.sure]) < SURE || !cells[COLUMN.text]?.trim())
      return []
    const at = (column: number) => Number(cells[column]) / perPoint
    const [x, y, width, height] = [at(COLUMN.left), at(COLUMN.top), at(COLUMN.width), at(COLUMN.height)]
    return [{ text: cells[COLUMN.text]!.trim(), x, y, width, height, base: y + height, size: height }]
  })
}

/** What was drawn, as PNG. */
export const pngOf = async (canvas: Canvas): Promise<Uint8Array> =>
  Uint8Array.from(await canvas.encode('png'))
