import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import fontkit from '@pdf-lib/fontkit'
import { PDFDocument, rgb } from 'pdf-lib'
import type { PDFFont, PDFPage } from 'pdf-lib'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { BlankValue } from '#server/db/schema.ts'

export interface Stamp {
  readonly blank: PlacedBlank
  readonly value: BlankValue
}

const require = createRequire(import.meta.url)
const ink = rgb(0.06, 0.15, 0.36)
const handFont = require.resolve('@expo-google-fonts/caveat/600SemiBold/Caveat_600SemiBold.ttf')
const plainFont = require.resolve('@expo-google-fonts/source-sans-3/400Regular/SourceSans3_400Regular.ttf')
const bytes = new Map<string, Promise<Buffer>>()

async function embed(document: PDFDocument, path: string): Promise<PDFFont> {
  const read = bytes.get(path) ?? readFile(path)
  bytes.set(path, read)
  return document.embedFont(await read, { subset: true })
}

/** Writes values onto the pages at their blanks; with nothing to write the bytes come back as they were. */
export async function stamp(pdf: Uint8Array, stamps: readonly Stamp[]): Promise<Uint8Array> {
  if (stamps.length === 0) return pdf
  const document = await PDFDocument.load(pdf, { updateMetadata: false })
  document.registerFontkit(fontkit)
  const [hand, plain] = [await embed(document, handFont), await embed(document, plainFont)]
  const pages = document.getPages()
  for (const { blank, value } of stamps) {
    const page = pages[blank.page - 1]
    if (!page) throw new Error(`Blank ${blank.id} stands on page ${blank.page} of ${pages.length}.`)
    if (value.kind === 'drawn') drawStrokes(page, blank, value.strokes, value.height)
    else writeText(page, blank, value.text, value.kind === 'typed' ? hand : plain, value.kind === 'typed' ? 0.8 : 0.72)
  }
  return document.save({ useObjectStreams: true })
}

/** As large as the blank's height allows, smaller where the width would not hold it. */
function writeText(page: PDFPage, blank: PlacedBlank, text: string, font: PDFFont, share: number): void {
  const drawable = [...text].filter((character) => font.getCharacterSet().includes(character.codePointAt(0)!)).join('')
  const most = Math.min(blank.height * share, 26)
  const size = Math.min(most, (most * (blank.width - 4)) / Math.max(1, font.widthOfTextAtSize(drawable, most)))
  page.drawText(drawable, { x: blank.x + 2, y: page.getHeight() - blank.y - blank.height + 3, size, font, color: ink })
}

function drawStrokes(page: PDFPage, blank: PlacedBlank, strokes: readonly (readonly (readonly [number, number])[])[], height: number): void {
  const scale = Math.min(blank.width, (blank.height + 8) / height)
  const path = strokes
    .map((stroke) => stroke.map(([x, y], i) => `${i === 0 ? 'M' : 'L'}${(x * scale).toFixed(2)} ${(y * scale).toFixed(2)}`).join(' ') + (stroke.length === 1 ? ' l0.1 0' : ''))
    .join(' ')
  page.drawSvgPath(path, { x: blank.x, y: page.getHeight() - blank.y - blank.height + height * scale, borderColor: ink, borderWidth: 1.1, borderLineCap: 1 })
}
