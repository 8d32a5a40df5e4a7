import type { Person } from '#contract/person.ts'
import { allBlocks, isText } from '#core/document/walk.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Picture } from '#server/compose/docx/parts.ts'
import { invalid } from '#server/ground/problem.ts'
import { readPictures } from './drawing.ts'
import { listLooks } from './looks.ts'
import { addTemplate, readTemplate } from './templates.ts'

/** Pictures of the file store as a word processor's document takes them, by their names. */
export const docxPictures = async (
  app: App,
  names: Iterable<string>,
): Promise<ReadonlyMap<string, Picture>> =>
  new Map((await readPictures(app, names)).map(({ name, bytes }) => [name, { bytes }]))

/** A template from a DOCX document; the report stays with it. */
export async function importTemplate(
  app: App,
  by: Person,
  name: string,
  bytes: Uint8Array,
  shelf: string | null,
) {
  await requireMay(app, by, 'templates')
  const read = await app.pages.readDocx(name, bytes)
  if (!read.ok) throw invalid(read.problem)
  for (const { bytes: picture, mediaType } of read.pictures) await app.files.put(picture, mediaType)
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
  if (!isText(draft.document))
    throw invalid('A form is pages that were brought in: it goes out as the PDF it is, not as DOCX.')
  const named = [...allBlocks(draft.document.content)].flatMap((block) =>
    block.type === 'image' ? [block.attrs.file] : [],
  )
  const pictures = await docxPictures(app, named)
  // The library that writes is loaded with the first document asked for, not with the server.
  const { templateDocx } = await import('#server/compose/docx/template.ts')
  return { bytes: await templateDocx(draft, pictures), name: draft.title }
}
