import { PDFDocument } from 'pdf-lib'
import type { PageEngine } from '#server/compose/engine.ts'
import { type Stamp, stampData, stampPictures } from '#server/compose/stamps.ts'

/** Lays values over the pages at their blanks; with nothing to lay over, the bytes come back as they were. */
export async function stamp(
  engine: PageEngine,
  pdf: Uint8Array,
  stamps: readonly Stamp[],
  at: Date,
): Promise<Uint8Array> {
  if (stamps.length === 0) return pdf
  const document = await PDFDocument.load(pdf, { updateMetadata: false })
  await stampOver(engine, document, stamps, at)
  return document.save({ useObjectStreams: true })
}

/** The same in a document that is open. */
export async function stampOver(
  engine: PageEngine,
  document: PDFDocument,
  stamps: readonly Stamp[],
  at: Date,
): Promise<void> {
  if (stamps.length === 0) return
  const pages = document.getPages()
  const lost = stamps.find(({ blank }) => blank.page > pages.length)
  if (lost) throw new Error(`Blank ${lost.blank.id} stands on page ${lost.blank.page} of ${pages.length}.`)
  const overlay = engine.stamps(
    stampData(
      pages.map((page) => page.getSize()),
      stamps,
    ),
    at,
    stampPictures(stamps),
  )
  const used = [...new Set(stamps.map(({ blank }) => blank.page - 1))]
  const embedded = await document.embedPdf(overlay, used)
  used.forEach((index, i) => pages[index]!.drawPage(embedded[i]!))
}
