import { randomUUID } from 'node:crypto'
import { and, desc, eq, isNotNull, isNull, or, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { oneOffSchema, oneOffStart } from '#contract/one-off.ts'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { isText } from '#core/document/walk.ts'
import { placesByRole } from '#core/checks/checks.ts'
import { formOfFiles } from '#core/form/marked.ts'
import { signerField } from '#core/merge/fields.ts'
import type { RecordData } from '#core/outline/field.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { edition, oneOff, person, record, series, template } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { COMMON_SERIES, organisationOf } from '#server/services/installation/organisation.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { prepare, senderOf } from '#server/services/templates/editions.ts'
import { formFaults, newPartId, pageFileOf } from '#server/services/templates/page-files.ts'
import { addTemplate } from '#server/services/templates/templates.ts'
import { makeClaimed, type Single } from './make-claimed.ts'

// One agreement of a file, without a template: brought in, placed on, made. Until it is made it is a draft of its own; then it has an
// edition as every agreement has, of a template that nobody sees unless somebody keeps it as one.

/** Begins one of files that were brought in, for a record or for none. */
export async function startOneOff(
  app: App,
  by: Person,
  { title, files, record: recordId }: v.InferOutput<typeof oneOffStart>,
): Promise<{ id: string }> {
  await requireMay(app, by, 'runs')
  const { language } = await organisationOf(app.db)
  const found = await Promise.all(files.map((file) => pageFileOf(app, file)))
  if (recordId) await kindOf(app.db, recordId)
  const draft = formOfFiles(title, language, found, newPartId)
  const id = randomUUID()
  await app.db
    .insert(oneOff)
    .values({ id, draft, changedAt: app.now(), createdBy: by.id, changedBy: by.id, recordId })
  return { id }
}

/** The record that one is for; prices have no agreements. */
async function kindOf(db: Db, id: string) {
  const [found] = await db.select().from(record).where(eq(record.id, id))
  if (!found || found.kind === 'price') throw notFound('record')
  return { id, kind: found.kind, name: found.name }
}

export async function readOneOff(
  app: App,
  by: Person,
  id: string,
): Promise<v.InferOutput<typeof oneOffSchema>> {
  await requireMay(app, by, 'runs')
  return loadOneOff(app, by, id)
}

/** Whose it is, or anybody once it is made: for everybody else it is not there. */
const isFor = (by: Person) => or(eq(oneOff.createdBy, by.id), isNotNull(oneOff.agreementId))

async function loadOneOff(app: App, by: Person, id: string): Promise<v.InferOutput<typeof oneOffSchema>> {
  const [found] = await app.db
    .select({ row: oneOff, name: person.name })
    .from(oneOff)
    .innerJoin(person, eq(person.id, oneOff.changedBy))
    .where(and(eq(oneOff.id, id), isFor(by)))
  if (!found) throw notFound('draft')
  const { draft, draftVersion, changedAt, recordId, agreementId } = found.row
  return {
    id,
    name: draft.title,
    draft,
    draftVersion,
    changedAt: changedAt.toISOString(),
    changedBy: found.name,
    record: recordId ? await kindOf(app.db, recordId) : null,
    agreement: agreementId,
  }
}

/** One's own that were begun and are not made yet, the last changed first; `record`: only those that are for it. */
export async function begunOneOffs(app: App, by: Person, recordId?: string) {
  await requireMay(app, by, 'runs')
  const rows = await app.db
    .select({
      id: oneOff.id,
      name: sql<string>`${oneOff.draft}->>'title'`,
      changedAt: oneOff.changedAt,
      changedBy: person.name,
      record: record.name,
    })
    .from(oneOff)
    .innerJoin(person, eq(person.id, oneOff.changedBy))
    .leftJoin(record, eq(record.id, oneOff.recordId))
    .where(
      and(
        isNull(oneOff.agreementId),
        eq(oneOff.createdBy, by.id),
        recordId ? eq(oneOff.recordId, recordId) : undefined,
      ),
    )
    .orderBy(desc(oneOff.changedAt))
    .limit(MOST_BEGUN)
  return rows.map((row) => ({ ...row, changedAt: row.changedAt.toISOString() }))
}

const MOST_BEGUN = 100

/** Gives one up; nothing of it has happened to anybody, so no trail tells of it. */
export async function dropOneOff(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'runs')
  const dropped = await app.db
    .delete(oneOff)
    .where(and(eq(oneOff.id, id), eq(oneOff.createdBy, by.id), isNull(oneOff.agreementId)))
    .returning({ id: oneOff.id })
  if (dropped.length) return
  await loadOneOff(app, by, id)
  throw conflict('The agreement is made; it is withdrawn there.')
}

/** Saves it over the version it was made from. */
export async function saveOneOff(app: App, by: Person, id: string, version: number, draft: TemplateContent) {
  await requireMay(app, by, 'runs')
  if (isText(draft.document)) throw invalid('These are pages of a file; a text cannot stand in their place.')
  const changedAt = app.now()
  const [saved] = await app.db
    .update(oneOff)
    .set({ draft, draftVersion: version + 1, changedAt, changedBy: by.id })
    .where(
      and(
        eq(oneOff.id, id),
        eq(oneOff.createdBy, by.id),
        eq(oneOff.draftVersion, version),
        isNull(oneOff.agreementId),
      ),
    )
    .returning({ version: oneOff.draftVersion })
  if (saved) return { version: saved.version, changedAt: changedAt.toISOString() }
  const there = await loadOneOff(app, by, id)
  throw conflict(
    there.agreement
      ? 'The agreement is made; its pages are changed there, as a revision.'
      : `${there.changedBy} saved this after you opened it. Yours is still here: compare the two, then keep one.`,
  )
}

/** People who were named once are asked for by whoever uses it again; their names are the agreement's data. */
function askedInstead(content: TemplateContent): {
  readonly content: TemplateContent
  readonly data: RecordData
} {
  const data: Record<string, string> = {}
  const roles = content.roles.map((role) => {
    const { fill } = role
    if (fill.rule !== 'standing person') return role
    const details = {
      full_name: fill.name,
      email: fill.email,
      title: fill.title,
      company: fill.company ?? '',
      phone: fill.phone ?? '',
    }
    for (const [detail, said] of Object.entries(details))
      if (said) data[signerField(role.key, detail as keyof typeof details)] = said
    return { ...role, fill: { rule: 'ask' as const } }
  })
  return { content: { ...content, roles }, data }
}

/** Makes the agreement of a draft. Asked again it is the one that was made then. */
export async function makeOneOff(app: App, by: Person, id: string, version: number): Promise<{ id: string }> {
  await requireMay(app, by, 'runs')
  const { db } = app
  const organisation = await organisationOf(db)
  const [row] = await db
    .select()
    .from(oneOff)
    .where(and(eq(oneOff.id, id), isFor(by)))
  if (!row) throw notFound('draft')
  if (row.agreementId) return { id: row.agreementId }
  const changed = conflict('It was saved again since. Look at it once more before making it.')
  if (row.draftVersion !== version) throw changed
  const { content, data } = askedInstead(row.draft)
  const prepared = prepare(content)
  if (!prepared.ok) throw invalid(prepared.problems[0]!.message)
  if (content.roles.length === 0) throw invalid('Nobody is named to sign it.')
  const places = placesByRole(content)
  const idle = content.roles.find(({ key }) => !places.has(key))
  if (idle) throw invalid(`${idle.label} has nothing on the pages yet.`)
  const [lost] = await formFaults(db, content)
  if (lost) throw invalid(`${lost.title}: ${lost.message}`)
  await db.insert(series).values({ id: COMMON_SERIES, pattern: 'A-{n}' }).onConflictDoNothing()
  const held = { templateId: randomUUID(), editionId: randomUUID() }
  const [file] = content.document.type === 'pages' ? content.document.content : []
  const single: Single = {
    bundle: { parts: [prepared.ready] },
    made: { editionId: held.editionId, packetEditions: [] },
    series: COMMON_SERIES,
    origin: { kind: 'file', file: file!.attrs.file },
    occasion: `one-off ${id}`,
    from: {
      data: { ...data, ...senderOf(content, by, organisation.name) },
      language: null,
      copies: [],
      extra: [],
    },
    rules: await rulesFor(db, [held.templateId], { author: by.id, from: 'file', rows: 1 }),
    by,
    told: { origin: 'file', named: content.title },
    recordId: row.recordId,
    shapedBy: row.changedBy,
  }
  return makeClaimed(app, [single], async (work, keep) => {
    const [now] = await work.db.select().from(oneOff).where(eq(oneOff.id, id)).for('update')
    // Asked twice at once: the other made it.
    if (now?.agreementId) return { id: now.agreementId }
    if (now?.draftVersion !== version) throw changed
    await hold(work, by, content, held)
    const agreementId = one(await keep())
    await work.db.update(oneOff).set({ agreementId: agreementId }).where(eq(oneOff.id, id))
    return { id: agreementId }
  })
}

/** What the agreement is an edition of: a template that is on no list. */
async function hold(
  { db, now }: Work,
  by: Person,
  content: TemplateContent,
  { templateId, editionId }: { readonly templateId: string; readonly editionId: string },
): Promise<void> {
  const at = now()
  await db.insert(template).values({
    id: templateId,
    name: content.title,
    seriesId: COMMON_SERIES,
    draft: content,
    changedAt: at,
    changedBy: by.id,
    oneOff: true,
  })
  await db.insert(edition).values({
    id: editionId,
    templateId,
    number: 1,
    content,
    publishedAt: at,
    publishedBy: by.id,
    note: '',
    cases: { passed: 0, failed: [] },
  })
}

/** Keeps a copy of it as a template, whose people are asked for. */
export async function keepOneOff(
  app: App,
  by: Person,
  id: string,
  { title, shelf }: { readonly title: string; readonly shelf: string | null },
): Promise<{ id: string }> {
  await requireMay(app, by, 'templates')
  const { draft } = await loadOneOff(app, by, id)
  return addTemplate(app, by, { ...askedInstead(draft).content, title }, shelf)
}
