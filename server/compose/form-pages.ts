import { PDFDocument, PDFName, PDFPage, PDFString } from 'pdf-lib'
import type { FinishedPages } from '#core/merge/finished.ts'
import { Kept } from '#server/ground/kept.ts'
import { turned } from '#server/convert/pages/page-frame.ts'
import type { Composed, DrawOptions, PageEngine } from './engine.ts'
import { type FormData, type LaidText, layPage, type PageSize } from './form-layout.ts'

// Pages that are there already, with what is laid over them. They come from files that were made normal when they were brought
// in (convert/pages): every page begins at 0, 0 and is neither turned nor cropped.

/** The pages of successive agreements are the same ones: they are put together once. */
const bases = new Kept<Promise<Base>>(4)

interface Base {
  readonly pdf: Uint8Array
  readonly sizes: readonly PageSize[]
}

/** Draws finished pages. */
export async function drawForm(
  engine: PageEngine,
  document: FinishedPages,
  options: DrawOptions,
): Promise<Composed> {
  const { title, language, pages } = document
  const base = await bases.take(pages.map(({ file, page, turn }) => `${file}.${page}.${turn}`).join(), () =>
    together(document, options),
  )
  const laid = pages.map(({ places }, i) => layPage(places, i + 1, base.sizes[i]!, document, options.proof))
  const blanks = laid.flatMap((page) => page.blanks)
  const places = laid.flatMap((page) => page.texts)
  let place = 0
  const data: FormData = {
    title,
    language,
    mark: options.mark ?? '',
    pages: laid.map(({ texts, options: ticks, initials }, i) => ({
      ...base.sizes[i]!,
      places: texts.map(({ told: _told, ...text }) => ({ ...text, place: place++ })),
      options: ticks,
      initials,
    })),
  }
  const { pdf, overflow } = engine.overForm(data, options.at)
  const whole = await PDFDocument.load(base.pdf, { updateMetadata: false })
  const used = laid.flatMap((page, i) =>
    page.texts.length || page.options.length || page.initials.length || data.mark ? [i] : [],
  )
  if (used.length) {
    const over = await whole.embedPdf(pdf, used)
    used.forEach((index, i) => whole.getPage(index).drawPage(over[i]!))
  }
  if (options.proof)
    laid.forEach(({ texts }, i) => texts.forEach((text) => linkOrigin(whole.getPage(i), text)))
  whole.setTitle(title, { showInWindowTitleBar: true })
  whole.setLanguage(language)
  whole.setCreationDate(options.at)
  whole.setModificationDate(options.at)
  return {
    pdf: await whole.save({ useObjectStreams: true }),
    pages: pages.length,
    blanks,
    overflow: overflow.map(({ place: at, text }) => ({ ...places[at]!.told, text })),
    alone: [],
  }
}

/**
 * The pages one after the other, each turned as it is wanted. Of each file all pages go over at once: what they draw with, such
 * as fonts, is shared then and not copied for every page.
 */
async function together({ pages }: FinishedPages, { files }: DrawOptions): Promise<Base> {
  const whole = await PDFDocument.create({ updateMetadata: false })
  const made = new Map<number, PDFPage>()
  for (const name of new Set(pages.map(({ file }) => file))) {
    const found = files?.find((each) => each.name === name)
    if (!found) throw new Error(`The file ${name} of a page was not given.`)
    // The library reads strings with decoders that take no shared memory.
    const source = await PDFDocument.load(found.bytes.slice(), { updateMetadata: false })
    const wanted = pages.flatMap((each, at) => (each.file === name ? [{ ...each, at }] : []))
    const lost = wanted.find(({ page }) => page > source.getPageCount())
    if (lost) throw new Error(`Page ${lost.page} is not in the file ${name}.`)
    // A page that stands twice cannot be the same page twice: like a turned one it is drawn into a page of its own.
    const isPlain = ({ page, turn }: (typeof wanted)[number], i: number): boolean =>
      turn === 0 && wanted.findIndex((each) => each.page === page && each.turn === 0) === i
    const [plain, drawn] = [wanted.filter(isPlain), wanted.filter((each, i) => !isPlain(each, i))]
    const copies = await whole.copyPages(
      source,
      plain.map(({ page }) => page - 1),
    )
    plain.forEach(({ at }, i) => made.set(at, copies[i]!))
    const frames = drawn.map(({ page, turn }) => {
      const { width, height } = source.getPage(page - 1).getSize()
      const crop = { left: 0, bottom: 0, right: width, top: height }
      return { crop, ...turned(crop, turn, 1) }
    })
    const embedded = await whole.embedPages(
      drawn.map(({ page }) => source.getPage(page - 1)),
      frames.map(({ crop }) => crop),
      frames.map(({ matrix }) => [...matrix]),
    )
    drawn.forEach(({ at }, i) => {
      const page = PDFPage.create(whole)
      page.setSize(frames[i]!.width, frames[i]!.height)
      page.drawPage(embedded[i]!)
      made.set(at, page)
    })
  }
  const inOrder = pages.map((_, at) => whole.addPage(made.get(at)))
  return { pdf: await whole.save({ useObjectStreams: true }), sizes: inOrder.map((page) => page.getSize()) }
}

/** In proofs every merged value leads to its origin, as those of a text do. */
function linkOrigin(page: PDFPage, { x, y, width, height, told: { origin } }: LaidText): void {
  if (origin === undefined) return
  const top = page.getHeight()
  page.node.addAnnot(
    page.doc.context.register(
      page.doc.context.obj({
        Type: PDFName.of('Annot'),
        Subtype: PDFName.of('Link'),
        Rect: [x, top - y - height, x + width, top - y],
        Border: [0, 0, 0],
        A: { S: PDFName.of('URI'), URI: PDFString.of(`origin:${origin}`) },
      }),
    ),
  )
}
