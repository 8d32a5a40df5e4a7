import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { allBlocks } from '#core/document/walk.ts'
import { merge } from '#core/merge/merge.ts'
import type { App } from '#server/app.ts'
import type { Picture } from '#server/compose/docx/parts.ts'
import { agreement } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/problem.ts'
import { picturesOf, readPictures } from './drawing.ts'
import { bundleOf } from './editions.ts'
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
  const { id } = await addTemplate(app, by, read.content, shelf, report)
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

/** An agreement's wording as a word processor's document. Its text is merged anew from its edition and its data. */
export async function exportAgreement(app: App, id: string): Promise<{ bytes: Uint8Array; name: string }> {
  const [found] = await app.db.select().from(agreement).where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  // Of a packet, its first document: the others have templates of their own to be exported from.
  const { document } = merge((await bundleOf(app, found)).parts[0], found.data, found.number)
  const { finishedDocx } = await import('#server/compose/docx/finished.ts')
  return {
    bytes: await finishedDocx(document, await load(app, picturesOf(document.blocks))),
    name: found.fileName,
  }
}
