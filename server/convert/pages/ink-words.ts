import type { PageLine, PageRead, PageWord } from '#core/form/page-read.ts'
import type { Box } from '#core/document/tree.ts'
import { cut } from '#core/text/cut.ts'
import { type Ink, type PlacedGlyph, round, rounded } from './ink.ts'

/** A word with the glyphs it is made of, in order. */
export interface InkWord extends PageWord {
  readonly glyphs: readonly PlacedGlyph[]
}

/** Part of the letters' size that may lie between two letters of one word. */
const APART = 0.12

/** Glyphs as words: joined where they stand on one line without a gap. */
export function wordsOf(glyphs: readonly PlacedGlyph[]): readonly InkWord[] {
  const words: InkWord[] = []
  let open: PlacedGlyph[] = []
  const end = () => {
    const [first] = open
    if (first) words.push(wordFrom(open, first))
    open = []
  }
  for (const glyph of glyphs) {
    const last = open.at(-1)
    const joins =
      last !== undefined &&
      !glyph.space &&
      Math.abs(glyph.base - last.base) < 0.25 * last.size &&
      glyph.x - last.right < APART * last.size &&
      glyph.x - last.right > -0.6 * last.size
    if (!joins) end()
    if (!glyph.space && glyph.text) open.push(glyph)
  }
  end()
  return words
}

function wordFrom(glyphs: readonly PlacedGlyph[], first: PlacedGlyph): InkWord {
  const x = Math.min(...glyphs.map((glyph) => glyph.x))
  const right = Math.max(...glyphs.map((glyph) => glyph.right))
  const { base, size, ascent, descent } = first
  return {
    text: glyphs.map(({ text }) => text).join(''),
    x,
    y: base - ascent * size,
    width: right - x,
    height: (ascent - descent) * size,
    base,
    size,
    glyphs,
  }
}

/** A page as it is kept: numbers rounded to hundredths of a point, what is drawn twice once. */
export function readOf(ink: Ink, width: number, height: number): PageRead {
  const lines = new Map<string, PageLine>()
  for (const { x1, y1, x2, y2 } of ink.lines) {
    const line = { x1: round(x1), y1: round(y1), x2: round(x2), y2: round(y2) }
    lines.set(Object.values(line).map(Math.round).join(), line)
  }
  const boxes = new Map<string, Box>()
  for (const box of ink.boxes) {
    const kept = rounded(box)
    boxes.set([kept.x, kept.y, kept.width, kept.height].map(Math.round).join(), kept)
  }
  return {
    width: round(width),
    height: round(height),
    words: wordsOf(ink.glyphs).map(({ text, base, size, ...box }) => ({
      text: cut(text, 200),
      base: round(base),
      size: round(size),
      ...rounded(box),
    })),
    lines: [...lines.values()],
    boxes: [...boxes.values()],
  }
}
