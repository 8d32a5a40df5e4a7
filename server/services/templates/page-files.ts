import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, inArray, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { allPlacements, isText } from '#core/document/walk.ts'
import { type CueFault, cueFaults, type ReadsOf } from '#core/form/cues.ts'
import { alike, fingerprintOf, SAME_FORM } from '#core/form/fingerprint.ts'
import type { FoundField, PageRead } from '#core/form/page-read.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { pageFile, pageRead, template } from '#server/db/schema.ts'
import { forbidden, invalid, notFound } from '#server/ground/problem.ts'
import { shelfRights } from './shelves.ts'

/** Brings a file in: its pages are made normal and read, and kept under the hash of what they are then. */
export async function bringIn(app: App, by: Person, name: string, bytes: Uint8Array) {
  if (!MAKERS.some((right) => by.rights.includes(right)))
    throw forbidden('Pages are brought in by whoever writes templates or makes agreements.')
  const brought = await app.pages.bringIn(bytes)
  if (!brought.ok) throw invalid(brought.problem)
  const { pdf, pages, fields, remarks } = brought
  const sha256 = await app.files.put(pdf, 'application/pdf')
  const fingerprint = fingerprintOf(pages)
  await transaction(app, async ({ db, now }) => {
    const [made] = await db
      .insert(pageFile)
      .values({ sha256, name, pages: pages.length, fields, fingerprint, at: now(), by: by.id })
      .onConflictDoNothing()
      .returning({ sha256: pageFile.sha256 })
    if (!made) return
    for (let from = 0; from < pages.length; from += READS_AT_ONCE)
      await db
        .insert(pageRead)
        .values(
          pages
            .slice(from, from + READS_AT_ONCE)
            .map((read, i) => ({ sha256, page: from + i + 1, read: withoutNul(read) })),
        )
  })
  return {
    ...(await pageFileOf(app, sha256)),
    report: remarks.map((remark) => ({ ...remark, place: '' })),
    known: await knownForms(app, by, sha256, fingerprint),
  }
}

/** Ids of pages and placements; the editor's are as short. */
export const newPartId = (): string => randomUUID().slice(0, 13)

/** Rights of those who have something to do with pages. */
const MAKERS = ['templates', 'runs', 'send'] as const

const READS_AT_ONCE = 50

/** The database keeps no character of the code 0 in its texts. */
const withoutNul = (read: PageRead): PageRead => ({
  ...read,
  // eslint-disable-next-line no-control-regex -- exactly that one
  words: read.words.map((word) => ({ ...word, text: word.text.replace(/\u0000/g, '') })),
})

/** A file of pages: the sizes of its pages, and the fields that it had itself. */
export async function pageFileOf(app: App, sha256: string) {
  const [found] = await app.db.select().from(pageFile).where(eq(pageFile.sha256, sha256))
  if (!found) throw notFound('file')
  const sizes = await app.db.execute<{ width: number; height: number }>(sizesOf(sha256))
  return {
    file: sha256,
    name: found.name,
    pages: sizes.rows.map(({ width, height }) => ({ width: Number(width), height: Number(height) })),
    fields: found.fields.map((field): FoundField => ({ ...field })),
  }
}

const sizesOf = (sha256: string) =>
  sql`select read->>'width' as width, read->>'height' as height from ${pageRead} where sha256 = ${sha256} order by page`

/** What was read on pages of a file; `pages` from 1, all of them where none are named. */
export async function readsOf(db: Db, sha256: string, pages?: readonly number[]) {
  return db
    .select({ page: pageRead.page, read: pageRead.read })
    .from(pageRead)
    .where(and(eq(pageRead.sha256, sha256), pages ? inArray(pageRead.page, [...pages]) : undefined))
    .orderBy(asc(pageRead.page))
}

/** The PDF of a file of pages; other files of the store are not found here. */
export async function pagesPdf(app: App, sha256: string): Promise<Uint8Array> {
  const [found] = await app.db
    .select({ sha256: pageFile.sha256 })
    .from(pageFile)
    .where(eq(pageFile.sha256, sha256))
  if (!found) throw notFound('file')
  return app.files.get(sha256)
}

/** What was read on some pages of files. */
export async function readsOn(
  db: Db,
  pages: readonly { readonly file: string; readonly page: number }[],
): Promise<ReadsOf> {
  const wanted = new Map<string, Set<number>>()
  for (const { file, page } of pages) wanted.set(file, (wanted.get(file) ?? new Set()).add(page))
  const found = new Map<string, PageRead>()
  for (const [file, numbers] of wanted)
    for (const { page, read } of await readsOf(db, file, [...numbers])) found.set(`${file}.${page}`, read)
  return (file, page) => found.get(`${file}.${page}`)
}

/** What was read on the pages that a form stands on; a text stands on none. */
export const readsOfForm = (db: Db, { document }: TemplateContent): Promise<ReadsOf> =>
  readsOn(db, isText(document) ? [] : document.content.map(({ attrs }) => attrs))

/**
 * What keeps a form from being used, told by its files and not by whoever sends it: pages that are not there, cues that lead
 * nowhere. A text has none of these. Words are read only where a cue asks for them: proofs ask with every change.
 */
export async function formFaults(db: Db, content: TemplateContent): Promise<readonly CueFault[]> {
  const { document } = content
  if (isText(document)) return []
  const files = await db
    .select({ sha256: pageFile.sha256, pages: pageFile.pages })
    .from(pageFile)
    .where(inArray(pageFile.sha256, [...new Set(document.content.map(({ attrs }) => attrs.file))]))
  const pagesIn = new Map(files.map(({ sha256, pages }) => [sha256, pages]))
  const lost = document.content.find(({ attrs: { file, page } }) => page > (pagesIn.get(file) ?? 0))
  if (lost)
    return [
      { id: lost.attrs.id, title: 'Page', message: 'A page names a file that was not brought in here.' },
    ]
  const cued = allPlacements(document).some(({ placement }) => placement.attrs.cue)
  return cued ? cueFaults(document, await readsOfForm(db, content)) : []
}

/** Forms that a file is another version of, the likest first: of those that whoever asks may use. */
async function knownForms(app: App, by: Person, sha256: string, fingerprint: readonly number[]) {
  const rights = await shelfRights(app.db, by)
  const rows = await app.db
    .select({ id: template.id, name: template.name, shelf: template.shelfId, draft: template.draft })
    .from(template)
    .where(and(eq(template.oneOff, false), sql`${template.draft}->'document'->>'type' = 'pages'`))
    .orderBy(desc(template.changedAt))
    .limit(MOST_FORMS)
  const files = new Map<string, { readonly id: string; readonly name: string }[]>()
  for (const { id, name, shelf, draft } of rows) {
    const may = rights.get(shelf)
    if (isText(draft.document) || !may || !Object.values(may).includes(true)) continue
    for (const file of new Set(draft.document.content.map(({ attrs }) => attrs.file)))
      files.set(file, [...(files.get(file) ?? []), { id, name }])
  }
  if (files.size === 0) return []
  const prints = await app.db
    .select({ sha256: pageFile.sha256, fingerprint: pageFile.fingerprint })
    .from(pageFile)
    .where(inArray(pageFile.sha256, [...files.keys()]))
  return prints
    .map((each) => ({
      file: each.sha256,
      like: each.sha256 === sha256 ? 1 : alike(each.fingerprint, fingerprint),
    }))
    .filter(({ like }) => like >= SAME_FORM)
    .sort((a, b) => b.like - a.like)
    .flatMap(({ file, like }) =>
      files
        .get(file)!
        .map(({ id, name }) => ({ template: id, name, file, like: Math.round(like * 100) / 100 })),
    )
    .slice(0, 5)
}

/** Forms that an incoming file is compared with, those changed last first. */
const MOST_FORMS = 500
