import { OPS } from 'pdfjs-dist/legacy/build/pdf.mjs'
import type { PDFPageProxy } from 'pdfjs-dist'
import type { PageLine } from '#core/form/page-read.ts'
import type { Box } from '#core/document/tree.ts'

// The reader's text positions are those of whole runs. What cues and snapping need is where each word stands, so the page's
// own operators are followed (ISO 32000-1, 8.4, 8.5, 9.3, 9.4), with each glyph's width as its font tells it.

type Matrix = readonly [number, number, number, number, number, number]
const IDENTITY: Matrix = [1, 0, 0, 1, 0, 0]

/** First `inner`, then `outer`. */
const times = (outer: Matrix, inner: Matrix): Matrix => [
  outer[0] * inner[0] + outer[2] * inner[1],
  outer[1] * inner[0] + outer[3] * inner[1],
  outer[0] * inner[2] + outer[2] * inner[3],
  outer[1] * inner[2] + outer[3] * inner[3],
  outer[0] * inner[4] + outer[2] * inner[5] + outer[4],
  outer[1] * inner[4] + outer[3] * inner[5] + outer[5],
]
const at = (m: Matrix, x: number, y: number): readonly [number, number] => [
  m[0] * x + m[2] * y + m[4],
  m[1] * x + m[3] * y + m[5],
]

interface Glyph {
  readonly unicode: string
  readonly width: number
  readonly isSpace: boolean
}
interface Font {
  readonly ascent?: number
  readonly descent?: number
  readonly fontMatrix?: readonly number[]
}

interface State {
  ctm: Matrix
  font: Font
  size: number
  charSpacing: number
  wordSpacing: number
  stretch: number
  leading: number
  rise: number
}

/** A glyph where it stands on the page; `show` and `index` say which operator of the page showed it, and where in it. */
export interface PlacedGlyph {
  readonly text: string
  readonly x: number
  readonly right: number
  readonly base: number
  readonly size: number
  readonly ascent: number
  readonly descent: number
  readonly space: boolean
  readonly upright: boolean
  /** The form it is drawn by, in the order they are drawn, from 1; 0: the page itself. `show`: which operator of that form. */
  readonly form: number
  readonly show: number
  readonly index: number
  /** How far it moves on, in thousandths of its size. */
  readonly step: number
}

/** What stands on a page: its glyphs, its lines and its frames, in the order they are drawn. */
export interface Ink {
  readonly glyphs: readonly PlacedGlyph[]
  readonly lines: readonly PageLine[]
  readonly boxes: readonly Box[]
  /** How many letters each operator of a form shows. */
  readonly shows: ReadonlyMap<number, readonly number[]>
  /** Part of the page that pictures cover, at most 1. */
  readonly pictured: number
}

/** Most glyphs and lines of one page that are kept: what has more is a drawing. */
const MOST_GLYPHS = 60_000
const MOST_LINES = 6000

/** Follows the operators of a page. `page.view` begins at 0, 0 and nothing is turned. */
export async function inkOf(page: PDFPageProxy): Promise<Ink> {
  const { fnArray, argsArray } = await page.getOperatorList()
  const [, , width, height] = page.view as [number, number, number, number]
  const reading = new Reading(height, width * height, (name) =>
    page.commonObjs.has(name) ? (page.commonObjs.get(name) as Font) : {},
  )
  for (const [i, operator] of fnArray.entries())
    reading.operator(operator, argsArray[i] as readonly unknown[])
  return reading
}

class Reading implements Ink {
  readonly glyphs: PlacedGlyph[] = []
  readonly lines: PageLine[] = []
  readonly boxes: Box[] = []
  pictured = 0
  private state: State = {
    ctm: IDENTITY,
    font: {},
    size: 1,
    charSpacing: 0,
    wordSpacing: 0,
    stretch: 1,
    leading: 0,
    rise: 0,
  }
  private readonly saved: State[] = []
  private matrix: Matrix = IDENTITY
  private line: Matrix = IDENTITY
  readonly shows = new Map<number, number[]>([[0, []]])
  /** The forms that are being drawn, innermost last. */
  private readonly forms: number[] = [0]
  private formCount = 0

  constructor(
    private readonly height: number,
    private readonly area: number,
    private readonly fontOf: (name: string) => Font,
  ) {}

  operator(operator: number, args: readonly unknown[]): void {
    const number = (i = 0) => args[i] as number
    switch (operator) {
      case OPS.save:
        return this.save()
      case OPS.restore:
      case OPS.endGroup:
        return this.restore()
      case OPS.paintFormXObjectEnd:
        if (this.forms.length > 1) this.forms.pop()
        return this.restore()
      case OPS.transform:
        return this.transform(args as unknown as Matrix)
      case OPS.beginGroup:
        return this.enter((args[0] as { matrix?: Matrix | null }).matrix)
      case OPS.paintFormXObjectBegin:
        this.forms.push(++this.formCount)
        this.shows.set(this.formCount, [])
        return this.enter(args[0] as Matrix | null)
      case OPS.beginText:
        this.matrix = this.line = IDENTITY
        return
      case OPS.setFont:
        this.state.font = this.fontOf(args[0] as string)
        this.state.size = number(1)
        return
      case OPS.setCharSpacing:
        this.state.charSpacing = number()
        return
      case OPS.setWordSpacing:
        this.state.wordSpacing = number()
        return
      case OPS.setHScale:
        this.state.stretch = number() / 100
        return
      case OPS.setLeading:
        this.state.leading = -number()
        return
      case OPS.setTextRise:
        this.state.rise = number()
        return
      case OPS.moveText:
        return this.moveText(number(0), number(1))
      case OPS.setLeadingMoveText:
        this.state.leading = number(1)
        return this.moveText(number(0), number(1))
      case OPS.setTextMatrix:
        this.matrix = this.line = [...(args[0] as Float32Array)] as unknown as Matrix
        return
      case OPS.nextLine:
        return this.moveText(0, this.state.leading)
      case OPS.showText:
        return this.show(args[0] as readonly (Glyph | number)[])
      case OPS.constructPath:
        return this.path(number(), (args[1] as readonly (Float32Array | null)[])[0] ?? null)
      case OPS.paintImageXObject:
      case OPS.paintInlineImageXObject:
      case OPS.paintImageMaskXObject:
        return this.picture()
    }
  }

  private save(): void {
    this.saved.push({ ...this.state })
  }
  private restore(): void {
    this.state = this.saved.pop() ?? this.state
  }
  private transform(matrix: Matrix): void {
    this.state.ctm = times(this.state.ctm, matrix)
  }
  private enter(matrix: Matrix | null | undefined): void {
    this.save()
    if (matrix) this.transform([...matrix] as unknown as Matrix)
  }
  private moveText(x: number, y: number): void {
    this.matrix = this.line = times(this.line, [1, 0, 0, 1, x, y])
  }

  private show(shown: readonly (Glyph | number)[]): void {
    const form = this.forms.at(-1)!
    const sizes = this.shows.get(form)!
    const show = sizes.length
    const { font, size, charSpacing, wordSpacing, stretch, rise, ctm } = this.state
    const unit = size * (font.fontMatrix?.[0] ?? 0.001)
    const whole = times(ctm, this.matrix)
    const scale = Math.hypot(whole[2], whole[3])
    // Turned text is read too; only what stands upright can be snapped to.
    const upright = Math.abs(whole[1]) < 0.01 * Math.abs(whole[0]) && whole[0] > 0
    const ascent = font.ascent || 0.75
    const descent = font.descent || -0.25
    let x = 0
    let index = 0
    for (const glyph of shown) {
      if (typeof glyph === 'number') {
        x -= (glyph * size) / 1000
        continue
      }
      const advance = glyph.width * unit
      if (this.glyphs.length < MOST_GLYPHS) {
        const [left, base] = at(whole, x * stretch, rise)
        const [right] = at(whole, (x + advance) * stretch, rise)
        this.glyphs.push({
          text: glyph.unicode,
          x: Math.min(left, right),
          right: Math.max(left, right),
          base: this.height - base,
          size: Math.abs(size) * scale,
          ascent,
          descent,
          space: glyph.isSpace || glyph.unicode.trim() === '',
          upright,
          form,
          show,
          index,
          step: ((advance + charSpacing + (glyph.isSpace ? wordSpacing : 0)) / (size || 1)) * 1000,
        })
      }
      index++
      x += advance + charSpacing + (glyph.isSpace ? wordSpacing : 0)
    }
    sizes.push(index)
    this.matrix = times(this.matrix, [1, 0, 0, 1, x * stretch, 0])
  }

  private picture(): void {
    const { ctm } = this.state
    const corners = [at(ctm, 0, 0), at(ctm, 1, 0), at(ctm, 0, 1), at(ctm, 1, 1)]
    const side = (i: 0 | 1) =>
      Math.max(...corners.map((each) => each[i])) - Math.min(...corners.map((each) => each[i]))
    this.pictured = Math.min(1, this.pictured + (side(0) * side(1)) / this.area)
  }

  private path(paint: number, data: Float32Array | null): void {
    if (!data) return
    const stroked = STROKES.has(paint)
    const filled = FILLS.has(paint)
    if (!stroked && !filled) return
    for (const points of subpaths(data, (x, y) => {
      const [px, py] = at(this.state.ctm, x, y)
      return [px, this.height - py]
    })) {
      const box = boxOf(points)
      if (box && (box.width < THIN || box.height < THIN)) this.segment(box)
      else if (box && stroked) this.frame(box)
      else if (stroked)
        points.slice(1).forEach(([x, y], i) => {
          const [px, py] = points[i]!
          this.segment({
            x: Math.min(x, px),
            y: Math.min(y, py),
            width: Math.abs(x - px),
            height: Math.abs(y - py),
          })
        })
    }
  }

  private frame(box: Box): void {
    if (this.boxes.length < MOST_LINES) this.boxes.push(box)
  }

  /** A thin rectangle or a stroke, as the line in its middle; what leans is none. */
  private segment({ x, y, width, height }: Box): void {
    if (this.lines.length >= MOST_LINES || Math.max(width, height) < SHORT) return
    if (height < THIN) this.lines.push({ x1: x, x2: x + width, y1: y + height / 2, y2: y + height / 2 })
    else if (width < THIN) this.lines.push({ x1: x + width / 2, x2: x + width / 2, y1: y, y2: y + height })
  }
}

/** Points up to which a rectangle is a line, and from which a line counts. */
const THIN = 2.6
const SHORT = 5

const STROKES = new Set<number>([
  OPS.stroke,
  OPS.closeStroke,
  OPS.fillStroke,
  OPS.eoFillStroke,
  OPS.closeFillStroke,
  OPS.closeEOFillStroke,
])
const FILLS = new Set<number>([OPS.fill, OPS.eoFill])

/** The reader's own way to hand over a path: each step's kind before its numbers. */
const STEP = { move: 0, line: 1, curve: 2, quadratic: 3, close: 4 } as const

type Point = readonly [number, number]

/** Subpaths made of straight steps only; one with a curve is left out. */
function subpaths(data: Float32Array, place: (x: number, y: number) => Point): readonly Point[][] {
  const found: Point[][] = []
  let points: Point[] = []
  let curved = false
  const end = () => {
    if (points.length > 1 && !curved) found.push(points)
    points = []
    curved = false
  }
  for (let i = 0; i < data.length;) {
    const step = data[i++]
    if (step === STEP.move) {
      end()
      points.push(place(data[i]!, data[i + 1]!))
      i += 2
    } else if (step === STEP.line) {
      points.push(place(data[i]!, data[i + 1]!))
      i += 2
    } else if (step === STEP.curve || step === STEP.quadratic) {
      curved = true
      i += step === STEP.curve ? 6 : 4
    } else if (step === STEP.close) {
      if (points[0]) points.push(points[0])
    } else break
  }
  end()
  return found
}

/** The rectangle that four or five points make, sides across and down; null: they make none. */
function boxOf(points: readonly Point[]): Box | null {
  if (points.length < 4 || points.length > 5) return null
  const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)]
  const [left, top, right, bottom] = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
  const onEdge = points.every(
    ([x, y]) =>
      Math.min(Math.abs(x - left), Math.abs(x - right)) < 0.5 &&
      Math.min(Math.abs(y - top), Math.abs(y - bottom)) < 0.5,
  )
  return onEdge ? { x: left, y: top, width: right - left, height: bottom - top } : null
}

/** Hundredths of a point are enough, and half the bytes. */
export const round = (value: number): number => Math.round(value * 100) / 100

/** A box to a hundredth of a point. */
export const rounded = ({ x, y, width, height }: Box): Box => ({
  x: round(x),
  y: round(y),
  width: round(width),
  height: round(height),
})
