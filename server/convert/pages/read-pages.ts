// A program of its own: it reads what comes from outside, which may be made to use up time and memory.
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { buffer } from 'node:stream/consumers'
import { createCanvas } from '@napi-rs/canvas'
import { PDFDict, PDFDocument, PDFName, PDFStream } from 'pdf-lib'
import type { PDFPageProxy } from 'pdfjs-dist'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { labelBeside } from '#core/form/likely.ts'
import type { FoundField, PageRead } from '#core/form/page-read.ts'
import { foundFields, isSigned } from './fields.ts'
import { type Ink, inkOf } from './ink.ts'
import { readOf } from './ink-words.ts'
import { type Normal, normalPages } from './normal.ts'
import { PAGE_LIMITS, type PageRemark, type ReadTold } from './page-limits.ts'
import { type PageMarker, pageMarkers } from './page-markers.ts'
import { takeOut } from './take-out.ts'
import { isPicture, picturePdf, PictureFault } from './pictures.ts'
import { askewBy, dotsOf, pngOf, rulesOf, turnedBy, wordsOnPicture } from './scans.ts'
import { takenOut } from './taken-out.ts'
import { unlocked } from './unlocked.ts'

/** The head in JSON, then the pages as a PDF; the head's length before it in 32 bits, the larger end first. */
const tell = (head: ReadTold, pdf?: Uint8Array): void => {
  const text = Buffer.from(JSON.stringify(head))
  const length = Buffer.alloc(4)
  length.writeUInt32BE(text.length)
  process.stdout.write(Buffer.concat([length, text, pdf ?? Buffer.alloc(0)]))
}

const assets = dirname(createRequire(import.meta.url).resolve('pdfjs-dist/package.json'))

async function read(given: Uint8Array): Promise<void> {
  const isPdf = Buffer.from(given.subarray(0, 1024)).includes('%PDF-')
  if (!isPdf && !isPicture(given))
    return tell({
      problem: 'This is no PDF, no picture (PNG, JPEG, TIFF) and no document (DOCX, XLSX, ODT, ODS).',
    })
  const { pdf: bytes, photographs } = isPdf ? { pdf: given, photographs: 0 } : await picturePdf(given)
  const opened = await sourceOf(bytes)
  if ('problem' in opened) return tell(opened)
  const { source } = opened
  const count = source.getPageCount()
  if (count === 0) return tell({ problem: 'The file has no pages.' })
  if (count > PAGE_LIMITS.pages)
    return tell({
      problem: `The file has ${count} pages; at most ${PAGE_LIMITS.pages} can be brought in. Split it first.`,
    })
  const remarks: PageRemark[] = [...takenOut(source)]
  if (photographs)
    remarks.push({
      kind: 'changed',
      what: 'Photographs of paper: cut to the paper, set straight and lightened',
      count: photographs,
    })
  if (opened.unlocked)
    remarks.push({
      kind: 'changed',
      what: 'Protection that allows to change the file: it is taken off',
      count: 1,
    })
  if (isSigned(source))
    remarks.push({
      kind: 'left out',
      what: 'A signature: the pages are taken as paper, and what they say is not signed any more',
      count: 1,
    })
  let fields: readonly FoundField[] = []
  try {
    fields = foundFields(source)
  } catch {
    remarks.push({ kind: 'left out', what: 'Fields that cannot be read', count: 1 })
  }
  const filled = fields.filter(({ value }) => value !== undefined).length
  if (filled)
    remarks.push({
      kind: 'changed',
      what: 'Fields that were filled in: they are empty on the pages now',
      count: filled,
    })
  const { document, pages } = await normalPages(source, new Date(0))
  const lost = pages.filter((page) => page.lost).length
  if (lost)
    remarks.push({
      kind: 'left out',
      what: 'Pages whose content cannot be read: they are empty',
      count: lost,
    })
  const first = await document.save({ useObjectStreams: true })
  const reads = await readAll(first, { document, pages })
  remarks.push(...reads.remarks)
  const pdf = reads.changed ? await document.save({ useObjectStreams: true }) : first
  tell(
    {
      pages: reads.pages,
      fields: [...fields.map((field) => labelled(field, reads.pages)), ...reads.marked],
      remarks,
    },
    pdf,
  )
}

/** Opens a file; one that is encrypted where its maker allows to change it. */
async function sourceOf(
  bytes: Uint8Array,
): Promise<{ readonly source: PDFDocument; readonly unlocked: boolean } | { readonly problem: string }> {
  const load = (of: Uint8Array) =>
    PDFDocument.load(of, { updateMetadata: false, throwOnInvalidObject: false })
  try {
    return { source: await load(bytes), unlocked: false }
  } catch (error) {
    if (!isEncrypted(error)) throw error
    const made = await unlocked(bytes)
    return made.ok ? { source: await load(made.bytes), unlocked: true } : { problem: made.problem }
  }
}

/** A field that says nothing to its reader is called by the words beside it. */
const labelled = (field: FoundField, pages: readonly PageRead[]): FoundField => {
  const page = pages[field.page - 1]
  const beside = page && field.label === field.name ? labelBeside(page, field.box, field.kind === 'tick') : ''
  return beside ? { ...field, label: beside } : field
}

/** Dots of a point that scanned pages are drawn with: 200 to an inch. */
const PER_POINT = 200 / 72
/** Share of a page from which a picture is the page; pages of pictures that are read. */
const WHOLE = 0.5
const MOST_SCANS = 60

async function readAll(
  pdf: Uint8Array,
  target: Normal,
): Promise<{
  readonly pages: readonly PageRead[]
  /** Markers in the text, whose letters are taken out. */
  readonly marked: readonly FoundField[]
  /** The document is another one than was read. */
  readonly changed: boolean
  readonly remarks: readonly PageRemark[]
}> {
  let [scans, straightened, unread, others, left] = [0, 0, 0, 0, 0]
  const marked: FoundField[] = []
  const document = await getDocument({
    data: Uint8Array.from(pdf),
    standardFontDataUrl: join(assets, 'standard_fonts/'),
    cMapUrl: join(assets, 'cmaps/'),
    cMapPacked: true,
    wasmUrl: join(assets, 'wasm/'),
    isEvalSupported: false,
    disableFontFace: true,
    verbosity: 0,
  }).promise
  const reads: PageRead[] = []
  for (let i = 1; i <= document.numPages; i++) {
    const page = await document.getPage(i)
    const { width, height } = page.getViewport({ scale: 1 })
    const ink = await inkOf(page)
    const found = ink.glyphs.some(({ text }) => text.includes('{')) ? pageMarkers(ink.glyphs) : NO_MARKERS
    others += found.others
    const out = takenOff(target, i - 1, ink, found.markers)
    left += found.markers.length - out.length
    marked.push(...out.map((marker) => ({ ...marker.found, page: i })))
    const gone = new Set(out.flatMap(({ glyphs }) => glyphs))
    const read = readOf({ ...ink, glyphs: ink.glyphs.filter((glyph) => !gone.has(glyph)) }, width, height)
    if (read.words.length === 0 && ink.pictured >= WHOLE && ++scans <= MOST_SCANS) {
      const scan = await readScanned(page, target.document, i - 1)
      if (scan.straightened) straightened++
      if (scan.words === null) unread++
      reads.push({ ...read, words: scan.words ?? [], lines: scan.lines })
    } else reads.push(read)
    page.cleanup()
    // Whoever waits sees that it goes on.
    process.stderr.write('.')
  }
  const told = (kind: PageRemark['kind'], what: string, count: number): readonly PageRemark[] =>
    count ? [{ kind, what, count }] : []
  return {
    pages: reads,
    marked,
    changed: straightened > 0 || marked.length > 0,
    remarks: [
      ...told('carried over', 'Markers in the text: they are blanks and values now', marked.length),
      ...told(
        'left out',
        'Markers of conditions and repeats: they stand on the pages as they were written',
        others,
      ),
      ...told('left out', 'Markers whose letters cannot be taken out of the page', left),
      ...told('changed', 'Scanned pages that lay askew: they are set straight', straightened),
      ...told(
        'left out',
        'Words of scanned pages: no program that reads them is installed here (./brevan add scans). Cues need words',
        unread,
      ),
      ...told(
        'left out',
        `Words of scanned pages beyond the first ${MOST_SCANS}`,
        Math.max(0, scans - MOST_SCANS),
      ),
    ],
  }
}

const NO_MARKERS: ReturnType<typeof pageMarkers> = { markers: [], others: 0 }

/** The form that draws a page's own content, see `normal.ts`. */
const CONTENT = 1

/** Takes the letters of markers out of their page; answers those of which all letters could be. */
function takenOff(
  { document, pages }: Normal,
  index: number,
  ink: Ink,
  markers: readonly PageMarker[],
): readonly PageMarker[] {
  const { drawn } = pages[index]!
  const own = markers.filter(({ glyphs }) => glyphs.every(({ form }) => form === CONTENT))
  if (!drawn || own.length === 0) return []
  const stream = document.context.lookup(drawn.ref, PDFStream)
  const resources = stream.dict.lookupMaybe(PDFName.of('Resources'), PDFDict)
  const sizes = ink.shows.get(CONTENT) ?? []
  const without = (some: readonly PageMarker[]) =>
    takeOut(
      drawn.content,
      some.flatMap(({ glyphs }) => glyphs),
      sizes,
      resources,
    )
  const all = without(own)
  // A marker stays whole where any of its letters cannot be told from its neighbours.
  const out = own.filter(({ glyphs }) => !glyphs.some(({ show }) => all.left.has(show)))
  if (out.length === 0) return []
  const { content } = out.length === own.length ? all : without(out)
  const next = document.context.flateStream(content)
  for (const [key, value] of stream.dict.entries())
    if (!ENCODED.has(key.decodeText())) next.dict.set(key, value)
  document.context.assign(drawn.ref, next)
  return out
}

const ENCODED = new Set(['Length', 'Filter', 'DecodeParms'])

/** A page that is a picture: set straight, in the document too, with its rules and, where they can be read, its words. */
async function readScanned(page: PDFPageProxy, target: PDFDocument, index: number) {
  const viewport = page.getViewport({ scale: PER_POINT })
  const canvas = createCanvas(Math.ceil(viewport.width), Math.ceil(viewport.height))
  const context = canvas.getContext('2d')
  context.fillStyle = '#fff'
  context.fillRect(0, 0, canvas.width, canvas.height)
  await page.render({ canvas: canvas as never, viewport }).promise
  const askew = askewBy(dotsOf(canvas, 0.35))
  const straight = askew === 0 ? canvas : turnedBy(canvas, -askew)
  if (askew !== 0) {
    const image = await target.embedJpg(await straight.encode('jpeg', 85))
    const { width, height } = target.getPage(index).getSize()
    target.removePage(index)
    target.insertPage(index, [width, height]).drawImage(image, { x: 0, y: 0, width, height })
  }
  const found = {
    words: await wordsOnPicture(await pngOf(straight), PER_POINT),
    lines: rulesOf(dotsOf(straight), PER_POINT),
  }
  return { ...found, straightened: askew !== 0 }
}

/** The library's own kinds of errors cannot be told apart by their class. */
const isEncrypted = (error: unknown): boolean =>
  error instanceof Error && error.message.includes('is encrypted')

try {
  await read(Uint8Array.from(await buffer(process.stdin)))
} catch (error) {
  tell({
    problem: error instanceof PictureFault ? error.message : 'The file is damaged: its pages cannot be read.',
  })
}
