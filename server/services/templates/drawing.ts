import { eq } from 'drizzle-orm'
import { finishedLooks, type Look, plainLook } from '#core/document/look.ts'
import type { FinishedDocument, FinishedPages, Merged } from '#core/merge/finished.ts'
import type { Bundle } from '#core/packet/bundle.ts'
import { allFinished, blocksOf } from '#core/merge/walk-finished.ts'
import { perObject } from '#core/per-object.ts'
import type { App } from '#server/app/app.ts'
import type { Composed, DrawOptions } from '#server/compose/engine.ts'
import type { Db } from '#server/db/connect.ts'
import { Kept } from '#server/ground/kept.ts'
import { look as looks, type PacketPart } from '#server/db/schema.ts'

/** The look of this id; the plain one where there is none, or none of that id. */
export async function lookOf(db: Db, id: string | null | undefined): Promise<Look> {
  if (!id) return plainLook
  const finished = finishedLooks.find((each) => each.id === id)
  if (finished) return finished.look
  if (!/^[0-9a-f-]{36}$/.test(id)) return plainLook
  const [own] = await db.select({ look: looks.look }).from(looks).where(eq(looks.id, id))
  return own?.look ?? plainLook
}

/** Files of the pictures that a finished document shows. */
export const picturesOf = (document: FinishedDocument): readonly string[] =>
  [...allFinished(blocksOf(document))].flatMap((block) => (block.kind === 'image' ? [block.file] : []))

/** Pictures of the file store by their names, each read once. */
export const readPictures = (app: App, names: Iterable<string>) =>
  Promise.all([...new Set(names)].map(async (name) => ({ name, bytes: await app.files.get(name) })))

/** Files of forms in memory that threads share; a run takes the same ones for each of its rows. */
const shared = perObject((_: App['files']) => new Kept<Promise<Uint8Array>>(FILES_KEPT))
const FILES_KEPT = 12

const pageFiles = (app: App, { pages }: FinishedPages) =>
  Promise.all(
    [...new Set(pages.map(({ file }) => file))].map(async (name) => ({
      name,
      bytes: await shared(app.files).take(name, async () => inShared(await app.files.get(name))),
    })),
  )

const inShared = (bytes: Uint8Array): Uint8Array => {
  const there = new Uint8Array(new SharedArrayBuffer(bytes.length))
  there.set(bytes)
  return there
}

/** Draws a finished document in a look, with the pictures that either names. */
export async function drawDocument(
  app: App,
  document: FinishedDocument,
  look: Look,
  options: Omit<DrawOptions, 'look' | 'pictures'>,
): Promise<Composed> {
  const { logo } = look.letterhead
  const pictures = await readPictures(app, [...picturesOf(document), ...(logo ? [logo] : [])])
  const files = document.body === 'pages' ? await pageFiles(app, document) : []
  return app.pages.document(document, { ...options, look, pictures, files })
}

const originsBefore = (documents: readonly Merged[], part: number): number =>
  documents.slice(0, part).reduce((sum, { origins }) => sum + origins.length, 0)

export interface ComposedBundle extends Composed {
  /** Of a packet: its documents within the file. */
  readonly parts: readonly PacketPart[]
}

/** Draws all documents of a bundle, those of a packet one behind the other in one file; its blanks keep their pages. */
export async function drawBundle(
  app: App,
  bundle: Bundle & { readonly editions?: readonly { readonly id: string }[] },
  documents: readonly Merged[],
  options: Omit<DrawOptions, 'look' | 'pictures'>,
): Promise<ComposedBundle> {
  const drawn = await Promise.all(
    documents.map(async ({ document }, i) =>
      drawDocument(app, document, await lookOf(app.db, bundle.parts[i]!.content.look), options),
    ),
  )
  if (drawn.length === 1) return { ...drawn[0]!, parts: [] }
  let pages = 0
  const placed = drawn.map((each) => {
    const before = pages
    pages += each.pages
    return { ...each, before }
  })
  return {
    pdf: await app.pages.combine(
      drawn.map(({ pdf }, i) => ({ pdf, title: bundle.parts[i]!.content.title })),
      options.at,
    ),
    pages,
    // The initials of each page are asked for in every document: their ids carry the document's place.
    blanks: placed.flatMap(({ blanks, before }, i) =>
      blanks.map((blank) => ({
        ...blank,
        id: `${i + 1}/${blank.id}`,
        page: blank.page + before,
        ...(blank.options
          ? { options: blank.options.map((option) => ({ ...option, page: option.page + before })) }
          : {}),
      })),
    ),
    // Whoever reads them has the origins of all documents one behind the other.
    overflow: drawn.flatMap(({ overflow }, i) =>
      overflow.map((each) =>
        each.origin === undefined ? each : { ...each, origin: each.origin + originsBefore(documents, i) },
      ),
    ),
    alone: drawn.flatMap(({ alone }) => alone),
    parts: placed.map(({ before, pages: own }, i) => ({
      title: bundle.parts[i]!.content.title,
      editionId: bundle.editions?.[i]?.id ?? '',
      firstPage: before + 1,
      pages: own,
    })),
  }
}
