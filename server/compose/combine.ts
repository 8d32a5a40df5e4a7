import { PDFDict, PDFDocument, PDFHexString, PDFName, PDFNull, PDFNumber, type PDFRef } from 'pdf-lib'
import { appendPdf, type PagesOfPart } from './append.ts'

/** One file of those that become one. */
export interface CombinedPart {
  readonly pdf: Uint8Array
  /** What its bookmark says. */
  readonly title: string
}

/**
 * One PDF of several, in order, with an outline of one entry each (ISO 32000-1, 12.3.3), their links and their structure
 * for screen readers.
 */
export async function combinePdfs(parts: readonly CombinedPart[], at: Date): Promise<Uint8Array> {
  const whole = await PDFDocument.create({ updateMetadata: false })
  const marks: { readonly title: string; readonly page: PDFRef }[] = []
  for (const { pdf, title } of parts) {
    const source = await PDFDocument.load(pdf, { updateMetadata: false })
    const pages = appendPdf(whole, source)
    if (pages[0]) marks.push({ title, page: pages[0].ref })
  }
  whole.setCreationDate(at)
  whole.setModificationDate(at)
  addOutline(whole, marks)
  return whole.save({ useObjectStreams: true })
}

/** One of the files that a combined PDF was made of, with its structure. */
export async function partOfPdf(
  pdf: Uint8Array,
  part: PagesOfPart,
  title: string,
  at: Date,
): Promise<Uint8Array> {
  const own = await PDFDocument.create({ updateMetadata: false })
  appendPdf(own, await PDFDocument.load(pdf, { updateMetadata: false }), part)
  own.setTitle(title)
  own.setCreationDate(at)
  own.setModificationDate(at)
  return own.save({ useObjectStreams: true })
}

function addOutline(
  whole: PDFDocument,
  marks: readonly { readonly title: string; readonly page: PDFRef }[],
): void {
  if (marks.length === 0) return
  const { context } = whole
  const outline = context.nextRef()
  const refs = marks.map(() => context.nextRef())
  marks.forEach(({ title, page }, i) => {
    const entry = PDFDict.withContext(context)
    entry.set(PDFName.of('Title'), PDFHexString.fromText(title))
    entry.set(PDFName.of('Parent'), outline)
    entry.set(PDFName.of('Dest'), context.obj([page, PDFName.of('XYZ'), PDFNull, PDFNull, PDFNull]))
    if (i > 0) entry.set(PDFName.of('Prev'), refs[i - 1]!)
    if (i < marks.length - 1) entry.set(PDFName.of('Next'), refs[i + 1]!)
    context.assign(refs[i]!, entry)
  })
  const root = PDFDict.withContext(context)
  root.set(PDFName.of('Type'), PDFName.of('Outlines'))
  root.set(PDFName.of('First'), refs[0]!)
  root.set(PDFName.of('Last'), refs.at(-1)!)
  root.set(PDFName.of('Count'), PDFNumber.of(marks.length))
  context.assign(outline, root)
  whole.catalog.set(PDFName.of('Outlines'), outline)
}
