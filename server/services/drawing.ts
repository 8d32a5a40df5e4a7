import { eq } from 'drizzle-orm'
import { finishedLooks, plainLook } from '#core/document/look.ts'
import type { Look } from '#core/document/look.ts'
import type { FinishedBlock, FinishedDocument } from '#core/merge/finished.ts'
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

export function* picturesOf(blocks: readonly FinishedBlock[]): Generator<string> {
  for (const block of blocks) {
    if (block.kind === 'image') yield block.file
    if (block.kind === 'clause') yield* picturesOf(block.blocks)
    if (block.kind === 'list') for (const item of block.items) yield* picturesOf(item)
    if (block.kind === 'table')
      for (const row of block.rows) for (const cell of row.cells) yield* picturesOf(cell.blocks)
  }
}

/** Draws a finished document in a look, with the pictures that either names. */
export async function drawDocument(
  app: App,
  document: FinishedDocument,
  look: Look,
  options: Omit<DrawOptions, 'look' | 'pictures'>,
): Promise<Composed> {
  const names = new Set([
    ...picturesOf(document.blocks),
    ...(look.letterhead.logo ? [look.letterhead.logo] : []),
  ])
  const pictures = await Promise.all(
    [...names].map(async (name) => ({ name, bytes: await app.files.get(name) })),
  )
  return app.pages.document(document, { ...options, look, pictures })
}
