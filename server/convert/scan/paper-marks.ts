import { createCanvas, loadImage } from '@napi-rs/canvas'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { dirname, join } from 'node:path'
import { createRequire } from 'node:module'
import { fitPoints, inkBeyond } from '#core/ceremony/marks.ts'
import type { Canvas } from '@napi-rs/canvas'
import type { Area, Grey, Point } from '#core/ceremony/marks.ts'
import { codeCorners } from '#server/compose/paper-codes.ts'

/** A page that came back, by the code on it, with the places on it that were to be written in, in points from the top left. */
export interface BackPage {
  readonly page: number
  readonly picture: Uint8Array
  /** Corners of the code as shares of the picture: top left, top right, bottom right, bottom left of the code itself. */
  readonly corners: readonly Point[]
  readonly places: readonly (Area & { readonly id: string })[]
}

/** Pixels for each point that print and scan are compared with: 108 dots per inch. */
const SCALE = 1.5
/** Square points of ink that count as something written: a short stroke of a fine pen. */
const LEAST = 5

const assets = dirname(createRequire(import.meta.url).resolve('pdfjs-dist/package.json'))

/** Of each page, the places in which nothing was written: the print that it was made from has as much there. */
export async function emptyPlaces(
  print: Uint8Array,
  pages: readonly BackPage[],
): Promise<ReadonlyMap<number, readonly string[]>> {
  const document = await getDocument({
    data: Uint8Array.from(print),
    standardFontDataUrl: join(assets, 'standard_fonts/'),
    wasmUrl: join(assets, 'wasm/'),
    isEvalSupported: false,
    verbosity: 0,
  }).promise
  const empty = new Map<number, readonly string[]>()
  for (const { page: number, picture, corners, places } of pages) {
    const page = await document.getPage(number)
    const viewport = page.getViewport({ scale: SCALE })
    const [width, height] = [Math.ceil(viewport.width), Math.ceil(viewport.height)]
    const printed = createCanvas(width, height)
    const ink = printed.getContext('2d')
    ink.fillStyle = '#fff'
    ink.fillRect(0, 0, width, height)
    await page.render({ canvas: printed as never, viewport }).promise
    const image = await loadImage(Buffer.from(picture))
    const scanned = createCanvas(width, height)
    const seen = scanned.getContext('2d')
    seen.fillStyle = '#fff'
    seen.fillRect(0, 0, width, height)
    const [a, b, c, d, e, f] = fitPoints(
      corners.map(([x, y]): Point => [x * image.width, y * image.height]),
      codeCorners(viewport.width / SCALE, viewport.height / SCALE).map(([x, y]): Point => [
        x * SCALE,
        y * SCALE,
      ]),
    )
    seen.setTransform(a, d, b, e, c, f)
    seen.drawImage(image, 0, 0)
    const [one, other] = [greyOf(printed), greyOf(scanned)]
    empty.set(
      number,
      places.flatMap(({ id, x, y, width: w, height: h }) => {
        const place = { x: x * SCALE, y: y * SCALE, width: w * SCALE, height: h * SCALE }
        return inkBeyond(one, other, place) < LEAST * SCALE * SCALE ? [id] : []
      }),
    )
    page.cleanup()
  }
  return empty
}

function greyOf(canvas: Canvas): Grey {
  const { width, height } = canvas
  const { data } = canvas.getContext('2d').getImageData(0, 0, width, height)
  const values = new Uint8Array(width * height)
  // Rec. 601, as JPEG has it.
  for (let i = 0; i < values.length; i++)
    values[i] = data[4 * i]! * 0.299 + data[4 * i + 1]! * 0.587 + data[4 * i + 2]! * 0.114
  return { width, height, values }
}
