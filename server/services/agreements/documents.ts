import { and, eq } from 'drizzle-orm'
import { mergeBundle } from '#core/packet/bundle.ts'
import { fileName } from '#core/text/pattern.ts'
import type { App } from '#server/app/app.ts'
import { agreement, revision } from '#server/db/schema.ts'
import { notFound } from '#server/ground/problem.ts'
import { picturesOf } from '#server/services/templates/drawing.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { documentNow } from './document-now.ts'
import { docxPictures } from '#server/services/templates/documents.ts'

// The library that writes is loaded with the first document asked for, not with the server.

/** A document's file and its name without ending. */
interface Named {
  readonly bytes: Uint8Array
  readonly name: string
}
interface Exported extends Named {
  readonly ending: 'docx' | 'pdf'
}

/**
 * An agreement's wording as word processor's documents, of a packet one for each of its templates. The text is merged anew
 * from the edition and the data. Pages that were brought in have no text of their own: they go out as the PDF they are.
 */
export async function exportDocuments(app: App, id: string): Promise<readonly Exported[]> {
  const [found] = await app.db.select().from(agreement).where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  const bundle = await bundleOf(app, found)
  const { finishedDocx } = await import('#server/compose/docx/finished.ts')
  const { documents } = mergeBundle(bundle, found.data, found.number)
  const several = documents.length > 1
  const pdfs = documents.some(({ document }) => document.body === 'pages')
    ? several
      ? await singleDocuments(app, id)
      : [await documentNow(app, id)]
    : []
  return Promise.all(
    documents.map(async ({ document }, i): Promise<Exported> => {
      const name = partName(found.fileName, several ? bundle.parts[i]!.content.title : null)
      return document.body === 'text'
        ? {
            bytes: await finishedDocx(document, await docxPictures(app, picturesOf(document))),
            name,
            ending: 'docx',
          }
        : { bytes: pdfs[i]!.bytes, name, ending: 'pdf' }
    }),
  )
}

const partName = (name: string, title: string | null) =>
  title === null ? name : fileName(`${name}, ${title}`)

/** One of them, counted from 1. */
export async function exportAgreement(app: App, id: string, part: number): Promise<Exported> {
  const found = (await exportDocuments(app, id))[part - 1]
  if (!found) throw notFound('document')
  return found
}

/** The documents of a packet as files of their own, as they stand. They have no seal: that is on the file they were signed in. */
export async function singleDocuments(app: App, id: string): Promise<readonly Named[]> {
  const [found] = await app.db
    .select({ parts: revision.parts, fileName: agreement.fileName, pages: revision.pages })
    .from(agreement)
    .innerJoin(revision, and(eq(revision.agreementId, agreement.id), eq(revision.number, agreement.revision)))
    .where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  const { bytes } = await documentNow(app, id)
  return Promise.all(
    found.parts.map(async ({ title, firstPage, pages }, at) => ({
      bytes: await app.pages.part(bytes, { first: firstPage - 1, pages, at }, title, app.now()),
      name: partName(found.fileName, title),
    })),
  )
}

export async function singleDocument(app: App, id: string, part: number): Promise<Named> {
  const found = (await singleDocuments(app, id))[part - 1]
  if (!found) throw notFound('document')
  return found
}
