import { type Reader, type ReadingDocument, readingOf } from '#core/ceremony/reading.ts'
import { linesOf as printedLines } from '#core/form/lines.ts'
import type { FinishedDocument } from '#core/merge/finished.ts'
import { mergeBundle } from '#core/packet/bundle.ts'
import type { App } from '#server/app/app.ts'
import { notFound } from '#server/ground/problem.ts'
import { filledBlanks } from '#server/services/agreements/filled.ts'
import { picturesOf } from '#server/services/templates/drawing.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { readsOn } from '#server/services/templates/page-files.ts'
import { picture } from '#server/services/templates/pictures.ts'
import { signaturePicture } from './handed-in.ts'
import { must, type Visit, visitOf, type Visitor } from './visit.ts'

/** The documents of an agreement, merged as they were for its pages: the same edition, words and data give the same text. */
const documentsOf = async (app: App, { row }: Visit) =>
  mergeBundle(await bundleOf(app, row), row.data, row.number).documents.map(({ document }) => document)

/** What the bearer of a link reads on a narrow screen. */
export async function readFlowing(
  app: App,
  visitor: Visitor,
): Promise<{ readonly documents: readonly ReadingDocument[] }> {
  const visit = await visitOf(app, visitor)
  must(visit, 'read')
  const { signer, parties, document } = visit
  const filled = await filledBlanks(app.db, parties, document.blanks)
  const signed = new Map(
    parties.flatMap(({ role, name, signedAt }) => (signedAt ? [[role, name] as const] : [])),
  )
  const said = new Map(
    [...filled.values()].flatMap((each) => each.map(({ blank, said: text }) => [blank, text] as const)),
  )
  const ofRole = new Map(document.blanks.map(({ id, role }) => [id, role]))
  const documents = await documentsOf(app, visit)
  const linesOn = await linesOf(app, documents)
  return {
    documents: documents.map((each, i) => {
      const prefix = documents.length > 1 ? `${i + 1}/` : ''
      return readingOf(each, {
        role: signer.role,
        blanks: document.blanks.filter(({ id }) => id.startsWith(prefix)),
        idOf: (id) => `${prefix}${id}`,
        linesOn,
        said: (id) => said.get(id) ?? signed.get(ofRole.get(id) ?? '') ?? '',
      })
    }),
  }
}

/** The lines that stand on pages which were brought in. */
async function linesOf(app: App, documents: readonly FinishedDocument[]): Promise<Reader['linesOn']> {
  const pages = documents.flatMap((each) => (each.body === 'pages' ? each.pages : []))
  const reads = await readsOn(app.db, pages)
  return (file, page) => {
    const read = reads(file, page)
    return read ? printedLines(read) : []
  }
}

/** A picture of the text; others of the store are not found by a link. */
export async function readPicture(app: App, visitor: Visitor, file: string) {
  const visit = await visitOf(app, visitor)
  must(visit, 'read')
  const named = (await documentsOf(app, visit)).flatMap(picturesOf)
  if (named.includes(file)) return picture(app, file)
  const own = await signaturePicture(app, visit, file)
  if (own) return { bytes: own, mediaType: 'image/png' as const }
  throw notFound('picture')
}
