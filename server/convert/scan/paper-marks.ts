// A program of its own: it draws what came back from paper with native code, and tells where nothing was written on it.
import { type Canvas, loadImage } from '@napi-rs/canvas'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { buffer } from 'node:stream/consumers'
import { fitPoints, type Grey, inkBeyond, type Point } from '#core/ceremony/marks.ts'
import { drawn, PDF_OPTIONS } from './canvas.ts'
import type { BackPage, MarksAsked } from './back-pages.ts'
import { codeCorners } from '#server/compose/paper-codes.ts'

/** Pixels for each point that print and scan are compared with: 108 dots per inch. */
const SCALE = 1.5
/** Square points of ink that count as something written: a short stroke of a fine pen. */
const LEAST = 5

async function emptyPlaces(
  print: Uint8Array,
  pages: readonly BackPage[],
): Promise<readonly (readonly [page: number, empty: readonly string[]])[]> {
  const document = await getDocument({ data: Uint8Array.from(print), ...PDF_OPTIONS }).promise
  const empty: [number, readonly string[]][] = []
  for (const { page: number, picture, corners, places } of pages) {
    const page = await document.getPage(number)
    const viewport = page.getViewport({ scale: SCALE })
    const [width, height] = [Math.ceil(viewport.width), Math.ceil(viewport.height)]
    const printed = drawn(width, height, () => undefined)
    await page.render({ canvas: printed as never, viewport }).promise
    const image = await loadImage(Buffer.from(picture))
    const [a, b, c, d, e, f] = fitPoints(
      corners.map(([x, y]): Point => [x * image.width, y * image.height]),
      codeCorners(viewport.width / SCALE, viewport.height / SCALE).map(([x, y]): Point => [
        x * SCALE,
        y * SCALE,
      ]),
    )
    const scanned = drawn(width, height, (canvas) => {
      const seen = canvas.getContext('2d')
      seen.setTransform(a, d, b, e, c, f)
      seen.drawImage(image, 0, 0)
    })
    const [one, other] = [greyOf(printed), greyOf(scanned)]
    empty.push([
      number,
      places.flatMap(({ id, x, y, width: w, height: h }) => {
        const place = { x: x * SCALE, y: y * SCALE, width: w * SCALE, height: h * SCALE }
        return inkBeyond(one, other, place) < LEAST * SCALE * SCALE ? [id] : []
      }),
    ])
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

const given = await buffer(process.stdin)
const start = 4 + given.readUInt32BE(0)
const asked = JSON.parse(given.toString('utf8', 4, start)) as MarksAsked
let at = start + asked.print
const pages = asked.pages.map(({ bytes, ...page }) => {
  at += bytes
  return { ...page, picture: given.subarray(at - bytes, at) }
})
process.stdout.write(JSON.stringify(await emptyPlaces(given.subarray(start, start + asked.print), pages)))
