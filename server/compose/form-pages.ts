import { PDFDocument, PDFName, PDFString } from 'pdf-lib'
import type { PDFPage } from 'pdf-lib'
import type { FinishedPages } from '#core/merge/finished.ts'
import { Kept } from '#server/ground/kept.ts'
import { turned } from '#server/convert/pages/page-frame.ts'
import type { Composed, DrawOptions, PageEngine } from './engine.ts'
import { layPage } from './form-layout.ts'
import type { FormData, LaidText, PageSize } from './form-layout.ts'

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
  const data: FormData = {
    title,
    language,
    mark: options.mark ?? '',
    pages: laid.map(({ texts, options: ticks, initials }, i) => ({
      ...base.sizes[i]!,
      places: texts.map(({ at, ...text }) => ({
        ...text,
        place: places.findIndex((each) => each.at === at),
      })),
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
    overflow: overflow.map(({ place, text }) => ({ ...places[place]!.told, text })),
    alone: [],
  }
}

/** The pages one after the other, each turned as it is wanted. */
async function together({ pages }: FinishedPages, { files }: DrawOptions): Promise<Base> {
  const whole = await PDFDocument.create({ updateMetadata: false })
  const sources = new Map<string, PDFDocument>()
  for (const { file } of pages)
    if (!sources.has(file)) {
      const found = files?.find(({ name }) => name === file)
      if (!found) throw new Error(`The file ${file} of a page was not given.`)
      // The library reads strings with decoders that take no shared memory.
      sources.set(file, await PDFDocument.load(found.bytes.slice(), { updateMetadata: false }))
    }
  const sizes: PageSize[] = []
  for (const [file, source] of sources) {
    const wanted = pages.filter((each) => each.file === file)
    const lost = wanted.find(({ page }) => page > source.getPageCount())
    if (lost) throw new Error(`Page ${lost.page} is not in the file ${file}.`)
  }
  for (const { file, page, turn } of pages) {
    const source = sources.get(file)!.getPage(page - 1)
    if (turn === 0) {
      const [copy] = await whole.copyPages(sources.get(file)!, [page - 1])
      whole.addPage(copy)
      sizes.push(copy!.getSize())
      continue
    }
    const { width, height } = source.getSize()
    const crop = { left: 0, bottom: 0, right: width, top: height }
    const frame = turned(crop, turn, 1)
    const made = whole.addPage([frame.width, frame.height])
    made.drawPage(await whole.embedPage(source, crop, [...frame.matrix]))
    sizes.push({ width: frame.width, height: frame.height })
  }
  return { pdf: await whole.save({ useObjectStreams: true }), sizes }
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
