import { PDFArray, PDFDict, PDFName, PDFNumber, type PDFPage } from 'pdf-lib'
import type { Turn } from '#core/document/tree.ts'

/** A page's own coordinates to points from the bottom left corner of what is shown, as a matrix (ISO 32000-1, 8.3.3). */
export type Matrix = readonly [number, number, number, number, number, number]

/** How a page is shown: its size in points, and the way there from its own coordinates. */
export interface PageFrame {
  readonly width: number
  readonly height: number
  readonly matrix: Matrix
  /** What is shown of the page, in its own coordinates. */
  readonly crop: {
    readonly left: number
    readonly bottom: number
    readonly right: number
    readonly top: number
  }
}

const numbers = (page: PDFPage, key: string): readonly number[] | null => {
  const found = page.node.getInheritableAttribute(PDFName.of(key))
  const array = found && page.doc.context.lookup(found)
  if (!(array instanceof PDFArray) || array.size() !== 4) return null
  const values = array.asArray().map((each) => {
    const value = page.doc.context.lookup(each)
    return value instanceof PDFNumber ? value.asNumber() : Number.NaN
  })
  return values.every(Number.isFinite) ? values : null
}

const ordered = ([a, b, c, d]: readonly number[]) => ({
  left: Math.min(a!, c!),
  bottom: Math.min(b!, d!),
  right: Math.max(a!, c!),
  top: Math.max(b!, d!),
})

const number = (page: PDFPage, key: string, otherwise: number): number => {
  const found = page.node.getInheritableAttribute(PDFName.of(key))
  const value = found && page.doc.context.lookup(found)
  return value instanceof PDFNumber && Number.isFinite(value.asNumber()) ? value.asNumber() : otherwise
}

/** Letter, for a page that says no size that could be. */
const LETTER = [0, 0, 612, 792] as const
/** The largest side of a page (ISO 32000-1, annex C), in points. */
const LARGEST = 14_400

/** A page's frame by its boxes, its turn and its unit (ISO 32000-1, 7.7.3.3 and 14.11.2). */
export function frameOf(page: PDFPage): PageFrame {
  const media = ordered(numbers(page, 'MediaBox') ?? LETTER)
  const cropped = ordered(numbers(page, 'CropBox') ?? [media.left, media.bottom, media.right, media.top])
  const both = {
    left: Math.max(media.left, cropped.left),
    bottom: Math.max(media.bottom, cropped.bottom),
    right: Math.min(media.right, cropped.right),
    top: Math.min(media.top, cropped.top),
  }
  const crop =
    both.right - both.left > 1 && both.top - both.bottom > 1
      ? both
      : media.right - media.left > 1 && media.top - media.bottom > 1
        ? media
        : ordered(LETTER)
  // Units are not inherited; a page that would come out too large is taken by points.
  const unit = page.node.get(PDFName.of('UserUnit'))
  const wanted = unit instanceof PDFNumber ? unit.asNumber() : 1
  const longest = Math.max(crop.right - crop.left, crop.top - crop.bottom)
  const scale = wanted > 0 && wanted * longest <= LARGEST ? wanted : 1
  const turn = ((Math.round(number(page, 'Rotate', 0) / 90) * 90) % 360) + 360
  return { ...turned(crop, (turn % 360) as Turn, scale), crop }
}

/** The frame of a rectangle that is shown turned, and so many times as large. */
export function turned(
  { left, bottom, right, top }: PageFrame['crop'],
  turn: Turn,
  u: number,
): Pick<PageFrame, 'width' | 'height' | 'matrix'> {
  const [wide, high] = [(right - left) * u, (top - bottom) * u]
  switch (turn) {
    case 0:
      return { width: wide, height: high, matrix: [u, 0, 0, u, -left * u, -bottom * u] }
    case 90:
      return { width: high, height: wide, matrix: [0, -u, u, 0, -bottom * u, right * u] }
    case 180:
      return { width: wide, height: high, matrix: [-u, 0, 0, -u, right * u, top * u] }
    case 270:
      return { width: high, height: wide, matrix: [0, u, -u, 0, top * u, -left * u] }
  }
}

/** A rectangle of the page's own coordinates as it is shown: points from the top left corner. */
export function shownBox(
  { matrix: [a, b, c, d, e, f], height }: PageFrame,
  [x1, y1, x2, y2]: readonly [number, number, number, number],
) {
  const [xs, ys] = [
    [a * x1 + c * y1 + e, a * x2 + c * y2 + e],
    [b * x1 + d * y1 + f, b * x2 + d * y2 + f],
  ]
  const [left, right] = [Math.min(...xs), Math.max(...xs)]
  const [low, high] = [Math.min(...ys), Math.max(...ys)]
  return { x: left, y: height - high, width: right - left, height: high - low }
}

/** The annotations of a page, those that are dictionaries. */
export const annotationsOf = (page: PDFPage): readonly PDFDict[] => {
  const found = page.node.get(PDFName.of('Annots'))
  const array = found && page.doc.context.lookup(found)
  return array instanceof PDFArray
    ? array.asArray().flatMap((each) => {
        const dict = page.doc.context.lookup(each)
        return dict instanceof PDFDict ? [dict] : []
      })
    : []
}
