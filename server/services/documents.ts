import { and, eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { allBlocks } from '#core/document/walk.ts'
import { mergeBundle } from '#core/packet/bundle.ts'
import { fileName } from '#core/text/pattern.ts'
import type { App } from '#server/app.ts'
import type { Picture } from '#server/compose/docx/parts.ts'
import { agreement, revision } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/problem.ts'
import { picturesOf, readPictures } from './making/drawing.ts'
import { bundleOf } from './making/editions.ts'
import { documentNow } from './executing.ts'
import { listLooks } from './looks.ts'
import { addTemplate, readTemplate } from './templates.ts'

const load = async (app: App, names: Iterable<string>): Promise<ReadonlyMap<string, Picture>> =>
  new Map((await readPictures(app, names)).map(({ name, bytes }) => [name, { bytes }]))

// The library that writes is loaded with the first document asked for, not with the server.

/** A template from a DOCX document; the report stays with it. */
export async function importTemplate(
  app: App,
  by: Person,
  name: string,
  bytes: Uint8Array,
  shelf: string | null,
) {
  const read = await app.pages.readDocx(name, bytes)
  if (!read.ok) throw invalid(read.problem)
  for (const { bytes: picture, mediaType } of read.pictures)
    await app.files.put(app.db, picture, mediaType, app.now())
  const report = read.report.map((remark) => ({ ...remark }))
  const { look } = read.content
  const known = !look || (await listLooks(app)).some(({ id }) => id === look)
  if (!known)
    report.push({
      kind: 'left out',
      what: 'A document look of another installation; the first finished one is taken',
      place: '',
      count: 1,
    })
  const content = known ? read.content : { ...read.content, look: null }
  const { id } = await addTemplate(app, by, content, shelf, report)
  return { id, report }
}

export async function exportTemplate(
  app: App,
  by: Person,
  id: string,
): Promise<{ bytes: Uint8Array; name: string }> {
  const { draft } = await readTemplate(app, by, id)
  const named = [...allBlocks(draft.document.content)].flatMap((block) =>
    block.type === 'image' ? [block.attrs.file] : [],
  )
  const pictures = await load(app, named)
  const { templateDocx } = await import('#server/compose/docx/template.ts')
  return { bytes: await templateDocx(draft, pictures), name: draft.title }
}

/** A document's file and its name without ending. */
interface Named {
  readonly bytes: Uint8Array
  readonly name: string
}

/**
 * An agreement's wording as word processor's documents, of a packet one for each of its templates. The text is merged anew
 * from the edition and the data.
 */
export async function exportDocuments(app: App, id: string): Promise<readonly Named[]> {
  const [found] = await app.db.select().from(agreement).where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  const bundle = await bundleOf(app, found)
  const { finishedDocx } = await import('#server/compose/docx/finished.ts')
  const { documents } = mergeBundle(bundle, found.data, found.number)
  return Promise.all(
    documents.map(async ({ document }, i) => ({
      bytes: await finishedDocx(document, await load(app, picturesOf(document.blocks))),
      name: partName(found.fileName, bundle.parts.length > 1 ? bundle.parts[i]!.content.title : null),
    })),
  )
}

const partName = (name: string, title: string | null) =>
  title === null ? name : fileName(`${name}, ${title}`)

/** One of them, counted from 1. */
export async function exportAgreement(app: App, id: string, part: number): Promise<Named> {
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
