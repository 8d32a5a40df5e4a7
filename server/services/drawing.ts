import { eq } from 'drizzle-orm'
import { finishedLooks, plainLook } from '#core/document/look.ts'
import type { Look } from '#core/document/look.ts'
import type { FinishedBlock, FinishedDocument } from '#core/merge/finished.ts'
import { allFinished } from '#core/merge/walk-finished.ts'
import type { App } from '#server/app.ts'
import type { Composed, DrawOptions } from '#server/compose/engine.ts'
import { look as looks } from '#server/db/schema.ts'

/** The look of this id; the plain one where there is none, or none of that id. */
export async function lookOf(app: App, id: string | null | undefined): Promise<Look> {
  if (!id) return plainLook
  const finished = finishedLooks.find((each) => each.id === id)
  if (finished) return finished.look
  if (!/^[0-9a-f-]{36}$/.test(id)) return plainLook
  const [own] = await app.db.select({ look: looks.look }).from(looks).where(eq(looks.id, id))
  return own?.look ?? plainLook
}

/** Files of the pictures that a finished document shows. */
export const picturesOf = (blocks: readonly FinishedBlock[]): readonly string[] =>
  [...allFinished(blocks)].flatMap((block) => (block.kind === 'image' ? [block.file] : []))

/** Pictures of the file store by their names, each read once. */
export const readPictures = (app: App, names: Iterable<string>) =>
  Promise.all([...new Set(names)].map(async (name) => ({ name, bytes: await app.files.get(name) })))

/** Draws a finished document in a look, with the pictures that either names. */
export async function drawDocument(
  app: App,
  document: FinishedDocument,
  look: Look,
  options: Omit<DrawOptions, 'look' | 'pictures'>,
): Promise<Composed> {
  const { logo } = look.letterhead
  const pictures = await readPictures(app, [...picturesOf(document.blocks), ...(logo ? [logo] : [])])
  return app.pages.document(document, { ...options, look, pictures })
}
