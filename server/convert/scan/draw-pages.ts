// A program of its own: it draws what comes from outside with native code, which a broken file can bring down.
import { readFile } from 'node:fs/promises'
import { buffer } from 'node:stream/consumers'
import { type Canvas, loadImage } from '@napi-rs/canvas'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader'
import { drawn, PDF_OPTIONS } from './canvas.ts'
import { type DrawnEnd, type DrawnPage, SCAN_LIMITS, type ScannedCode } from './scan-limits.ts'

/** Dots per inch that pages of a PDF are drawn with: a module of a code has three of them then. */
const DENSITY = 150
const PER_POINT = DENSITY / 72
/** So much larger a page is looked at once more where no code was found. */
const CLOSER = 1.7
/** Pixels on the longer side that a picture is kept with: Letter at 200 dots per inch. */
const KEPT_SIDE = 2200
const QUALITY = 82

/** Each page as its length and head in JSON, then its picture; lengths are 32 bits, the larger end first. */
const tell = (head: DrawnPage | DrawnEnd, picture?: Uint8Array): void => {
  const text = Buffer.from(JSON.stringify(head))
  const length = Buffer.alloc(4)
  length.writeUInt32BE(text.length)
  process.stdout.write(Buffer.concat([length, text, picture ?? Buffer.alloc(0)]))
}

async function drawPicture(bytes: Uint8Array): Promise<void> {
  const image = await loadImage(Buffer.from(bytes))
  const { width, height } = image
  const whole = drawn(width, height, (canvas) => canvas.getContext('2d').drawImage(image, 0, 0))
  const codes = await codesOn(whole)
  const scale = Math.min(1, KEPT_SIDE / Math.max(width, height))
  const [w, h] = [Math.round(width * scale), Math.round(height * scale)]
  const kept = drawn(w, h, (canvas) => canvas.getContext('2d').drawImage(image, 0, 0, w, h))
  await tellPage(kept, codes)
}

async function drawPdf(bytes: Uint8Array): Promise<string | null> {
  const task = getDocument({
    data: Uint8Array.from(bytes),
    ...PDF_OPTIONS,
    maxImageSize: SCAN_LIMITS.pixels,
  })
  const document = await task.promise
  if (document.numPages > SCAN_LIMITS.pages)
    return `The file has ${document.numPages} pages; at most ${SCAN_LIMITS.pages} are read at once.`
  for (let i = 1; i <= document.numPages; i++) {
    const page = await document.getPage(i)
    const { width, height } = page.getViewport({ scale: 1 })
    const most = SCAN_LIMITS.side / 2 / Math.max(width, height)
    const at = async (scale: number): Promise<Canvas> => {
      const viewport = page.getViewport({ scale: Math.min(scale, most) })
      const canvas = drawn(Math.ceil(viewport.width), Math.ceil(viewport.height), () => undefined)
      await page.render({ canvas: canvas as never, viewport }).promise
      return canvas
    }
    const canvas = await at(PER_POINT)
    const found = await codesOn(canvas)
    // A code that the scanner left small or pale may show where it is drawn larger.
    await tellPage(canvas, found.length ? found : await codesOn(await at(PER_POINT * CLOSER)))
    page.cleanup()
  }
  return null
}

async function codesOn(canvas: Canvas): Promise<readonly ScannedCode[]> {
  const pixels = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height)
  const found = await readBarcodes(pixels as never, {
    formats: ['QRCode'],
    tryHarder: true,
    tryRotate: true,
    maxNumberOfSymbols: 8,
  })
  return found
    .filter(({ isValid }) => isValid)
    .map(({ text, position: { topLeft, topRight, bottomRight, bottomLeft } }) => ({
      text,
      corners: [topLeft, topRight, bottomRight, bottomLeft].map(
        ({ x, y }) => [x / canvas.width, y / canvas.height] as const,
      ),
    }))
}

async function tellPage(canvas: Canvas, codes: readonly ScannedCode[]): Promise<void> {
  const picture = await canvas.encode('jpeg', QUALITY)
  tell({ bytes: picture.length, width: canvas.width, height: canvas.height, codes }, picture)
}

/** The library's program lies beside it; left alone it would be fetched from elsewhere. */
async function prepare(): Promise<void> {
  const program = await readFile(new URL(import.meta.resolve('zxing-wasm/reader/zxing_reader.wasm')))
  prepareZXingModule({ overrides: { wasmBinary: Uint8Array.from(program).buffer } })
}

const bytes = await buffer(process.stdin)
try {
  await prepare()
  const problem = bytes.subarray(0, 1024).includes('%PDF-')
    ? await drawPdf(bytes)
    : (await drawPicture(bytes), null)
  tell(problem === null ? { end: true } : { problem })
} catch (error) {
  tell({
    problem:
      (error as Error).name === 'PasswordException'
        ? 'The file is protected with a password. Save it without one.'
        : 'The file is damaged: its pages cannot be drawn.',
  })
}
