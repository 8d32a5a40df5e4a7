import { type Canvas, createCanvas, loadImage } from '@napi-rs/canvas'
import { PDFDocument } from 'pdf-lib'
import UTIF from 'utif2'
import { sizeOfPicture } from '../read-picture.ts'
import { PAGE_LIMITS } from './page-limits.ts'
import { paperOn } from './photographs.ts'

/** Why a picture is not taken, in words for whoever brought it in. */
export class PictureFault extends Error {}

const isTiff = (bytes: Uint8Array): boolean =>
  (bytes[0] === 0x49 && bytes[1] === 0x49 && bytes[2] === 0x2a) ||
  (bytes[0] === 0x4d && bytes[1] === 0x4d && bytes[3] === 0x2a)

const tooLarge = () =>
  new PictureFault(
    `The picture has more than ${PAGE_LIMITS.pixels / 1_000_000} million dots, or more than ${PAGE_LIMITS.side} on a side. Scan it with 300 dots per inch.`,
  )

/** Whether bytes begin as a picture that can be made a page. */
export const isPicture = (bytes: Uint8Array): boolean => isTiff(bytes) || sizeOfPicture(bytes) !== null

/** The longer side of a page that a picture is put on, in points: that of Letter. */
const LONGER = 792
const QUALITY = 88

/**
 * A picture as a PDF: a page for it, as large as paper; of a TIFF file one for each picture in it. Of a photograph of paper the
 * paper alone; `photographs`: how many those are.
 */
export async function picturePdf(
  bytes: Uint8Array,
): Promise<{ readonly pdf: Uint8Array; readonly photographs: number }> {
  const document = await PDFDocument.create({ updateMetadata: false })
  let photographs = 0
  for await (const whole of isTiff(bytes) ? tiffPictures(bytes) : onePicture(bytes)) {
    // A scanner's own format has scans.
    const paper = isTiff(bytes) ? null : paperOn(whole)
    if (paper) photographs++
    const canvas = paper ?? whole
    const image = await document.embedJpg(await canvas.encode('jpeg', QUALITY))
    const scale = LONGER / Math.max(image.width, image.height)
    const page = document.addPage([image.width * scale, image.height * scale])
    page.drawImage(image, { x: 0, y: 0, width: page.getWidth(), height: page.getHeight() })
  }
  return { pdf: await document.save(), photographs }
}

async function* onePicture(bytes: Uint8Array): AsyncGenerator<Canvas> {
  const size = sizeOfPicture(bytes)
  if (!size) throw new PictureFault('The picture is cut off.')
  if (!size.ok) throw new PictureFault(size.problem)
  checkSize(size.width, size.height)
  const image = await loadImage(Buffer.from(bytes))
  const canvas = onWhite(image.width, image.height)
  canvas.getContext('2d').drawImage(image, 0, 0)
  yield canvas
}

async function* tiffPictures(bytes: Uint8Array): AsyncGenerator<Canvas> {
  const all = bytes.slice().buffer
  const found = UTIF.decode(all).filter((each) => tag(each, 't256') > 0 && tag(each, 't257') > 0)
  if (found.length > PAGE_LIMITS.pages) throw new PictureFault(`The file has ${found.length} pictures.`)
  for (const each of found) {
    const [width, height] = [tag(each, 't256'), tag(each, 't257')]
    checkSize(width, height)
    UTIF.decodeImage(all, each)
    const colours = UTIF.toRGBA8(each)
    const canvas = onWhite(width, height)
    const data = canvas.getContext('2d').createImageData(width, height)
    data.data.set(colours)
    canvas.getContext('2d').putImageData(data, 0, 0)
    yield canvas
  }
}

/** The first number of a tag of TIFF 6.0; 0 where there is none. */
const tag = (found: object, name: string): number => {
  const value = (found as Readonly<Record<string, unknown>>)[name]
  return Array.isArray(value) && typeof value[0] === 'number' ? value[0] : 0
}

function checkSize(width: number, height: number): void {
  if (width * height > PAGE_LIMITS.pixels || Math.max(width, height) > PAGE_LIMITS.side) throw tooLarge()
}

function onWhite(width: number, height: number): Canvas {
  const canvas = createCanvas(width, height)
  const context = canvas.getContext('2d')
  context.fillStyle = '#fff'
  context.fillRect(0, 0, width, height)
  return canvas
}
