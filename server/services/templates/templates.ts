import { randomUUID } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import { and, count, desc, eq, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { ImportRemark } from '#contract/template.ts'
import { emptyTemplate } from '#core/document/empty.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { agreement, edition, person, series, template } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, forbidden, invalid, notFound } from '#server/ground/problem.ts'
import { caseResults } from './cases.ts'
import { formFaults } from './page-files.ts'
import { copyMappings } from '#server/services/sheets/mappings.ts'
import { mayWith, requireRight, shelfRights } from './shelves.ts'
import { COMMON_SERIES, organisationOf } from '#server/services/installation/organisation.ts'

/** Templates that a person may do anything with, by name; where it is told how well they fit, those first that do best. */
export async function listTemplates(
  app: App,
  by: Person,
  fit: ((content: TemplateContent) => number) | null,
) {
  const may = await shelfRights(app.db, by)
  const latest = app.db
    .selectDistinctOn([edition.templateId])
    .from(edition)
    .orderBy(edition.templateId, desc(edition.number))
    .as('latest')
  const used = app.db
    .select({ templateId: edition.templateId, agreements: count().as('agreements') })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .groupBy(edition.templateId)
    .as('used')
  const rows = await app.db
    .select({
      id: template.id,
      name: template.name,
      latestEdition: latest.number,
      changedAt: template.changedAt,
      changedBy: person.name,
      draftDiffers: sql<boolean>`${latest.content} is distinct from ${template.draft}`,
      agreements: used.agreements,
      shelf: template.shelfId,
      ...(fit ? { draft: template.draft } : {}),
    })
    .from(template)
    .innerJoin(person, eq(person.id, template.changedBy))
    .leftJoin(latest, eq(latest.templateId, template.id))
    .leftJoin(used, eq(used.templateId, template.id))
    .where(eq(template.oneOff, false))
    .orderBy(template.name)
  return rows
    .map(({ draft, ...row }) => ({ row, fits: draft && fit ? fit(draft as TemplateContent) : 0 }))
    .sort((a, b) => b.fits - a.fits)
    .flatMap(({ row }) => {
      const rights = may.get(row.shelf) ?? nothing
      // Whoever only reads agreements sees templates on no shelf, and none of a shelf that is not theirs.
      if (row.shelf !== null && !Object.values(rights).includes(true)) return []
      return [
        {
          ...row,
          agreements: row.agreements ?? 0,
          changedAt: row.changedAt.toISOString(),
          may: rights,
        },
      ]
    })
}

const nothing = { use: false, edit: false, publish: false }

/** A template with its draft and editions, newest first. Who may do nothing with it does not find it. */
export async function readTemplate(app: App, by: Person, id: string) {
  const may = await mayWith(app.db, by, id)
  const { shelfId } = await shelfOf(app, id)
  if (shelfId !== null && !may.use && !may.edit && !may.publish) throw notFound('template')
  const [found] = await app.db
    .select()
    .from(template)
    .innerJoin(person, eq(person.id, template.changedBy))
    .where(eq(template.id, id))
  if (!found) throw notFound('template')
  const editions = await app.db
    .select({
      id: edition.id,
      number: edition.number,
      publishedAt: edition.publishedAt,
      publishedBy: person.name,
      content: edition.content,
      note: edition.note,
      cases: edition.cases,
    })
    .from(edition)
    .innerJoin(person, eq(person.id, edition.publishedBy))
    .where(eq(edition.templateId, id))
    .orderBy(desc(edition.number))
  const { draft, draftVersion, name, changedAt, importReport } = found.template
  return {
    id,
    name,
    draft,
    draftVersion,
    changedAt: changedAt.toISOString(),
    changedBy: found.person.name,
    draftDiffers: !isDeepStrictEqual(editions[0]?.content, draft),
    editions: editions.map(({ content: _content, publishedAt, cases, ...rest }) => ({
      ...rest,
      cases: { passed: cases.passed, failed: [...cases.failed] },
      publishedAt: publishedAt.toISOString(),
    })),
    shelf: shelfId,
    may,
    importReport: [...importReport],
  }
}

async function shelfOf(app: App, id: string) {
  const [found] = await app.db.select({ shelfId: template.shelfId }).from(template).where(eq(template.id, id))
  if (!found) throw notFound('template')
  return found
}

/** What an edition says. */
export async function readEdition(
  app: App,
  by: Person,
  id: string,
  number: number,
): Promise<TemplateContent> {
  await readTemplate(app, by, id)
  const [found] = await app.db
    .select({ content: edition.content })
    .from(edition)
    .where(and(eq(edition.templateId, id), eq(edition.number, number)))
  if (!found) throw notFound('edition')
  return found.content
}

/** A new template: the draft given, on a shelf, with the series that all templates share unless they have one. */
export async function addTemplate(
  app: App,
  by: Person,
  draft: TemplateContent,
  shelfId: string | null,
  importReport: readonly ImportRemark[] = [],
): Promise<{ id: string }> {
  const rights = (await shelfRights(app.db, by)).get(shelfId)
  if (!rights) throw notFound('shelf')
  if (!rights.edit) throw forbidden('Your teams may not edit the templates of this shelf.')
  const id = randomUUID()
  await transaction(app, async ({ db, now }) => {
    await db.insert(series).values({ id: COMMON_SERIES, pattern: 'A-{n}' }).onConflictDoNothing()
    await db.insert(template).values({
      id,
      name: draft.title,
      seriesId: COMMON_SERIES,
      draft,
      changedAt: now(),
      changedBy: by.id,
      shelfId,
      importReport,
    })
  })
  return { id }
}

/** A new template, empty or as a copy of another's draft. */
export async function startTemplate(
  app: App,
  by: Person,
  { title, shelf, from }: { title: string; shelf: string | null; from: string | null },
): Promise<{ id: string }> {
  await requireMay(app, by, 'templates')
  const draft = from
    ? (await readTemplate(app, by, from)).draft
    : emptyTemplate(title, (await organisationOf(app.db)).language)
  const made = await addTemplate(app, by, { ...draft, title }, shelf)
  if (from) await copyMappings(app.db, from, made.id)
  return made
}

export async function shelveTemplate(app: App, by: Person, id: string, shelf: string | null): Promise<void> {
  await requireMay(app, by, 'templates')
  await requireRight(app.db, by, id, 'publish')
  const rights = (await shelfRights(app.db, by)).get(shelf)
  if (!rights) throw notFound('shelf')
  if (!rights.edit) throw forbidden('Your teams may not edit the templates of that shelf.')
  await app.db.update(template).set({ shelfId: shelf }).where(eq(template.id, id))
}

/** Saves a draft over the version it was made from; a later version of somebody else is never overwritten. */
export async function saveDraft(app: App, by: Person, id: string, version: number, content: TemplateContent) {
  await requireMay(app, by, 'templates')
  await requireRight(app.db, by, id, 'edit')
  const changedAt = app.now()
  const [saved] = await app.db
    .update(template)
    .set({ draft: content, name: content.title, draftVersion: version + 1, changedAt, changedBy: by.id })
    .where(and(eq(template.id, id), eq(template.draftVersion, version)))
    .returning({ version: template.draftVersion })
  if (saved) return { version: saved.version, changedAt: changedAt.toISOString() }
  const there = await readTemplate(app, by, id)
  throw conflict(
    `${there.changedBy} saved this draft after you opened it. Your wording is still here: compare the two, then keep yours or take the other.`,
  )
}

/** Freezes the draft as the next edition; refused while it has faults, or where nothing has changed. */
export async function publish(app: App, by: Person, id: string, version: number, note: string) {
  await requireMay(app, by, 'templates')
  return transaction(app, async ({ db, now }) => {
    await requireRight(db, by, id, 'publish')
    const [found] = await db.select().from(template).where(eq(template.id, id)).for('update')
    if (!found) throw notFound('template')
    if (found.draftVersion !== version)
      throw conflict('The draft was saved again since. Look at it once more before publishing.')
    const prepared = prepareTemplate(found.draft)
    if (!prepared.ok)
      throw invalid(
        `The draft has ${prepared.problems.length === 1 ? 'a fault' : `${prepared.problems.length} faults`}: ${prepared.problems[0]!.message}`,
        prepared.problems.map(({ where, id: place, message }) => ({
          pointer: `/${where}/${place}`,
          detail: message,
        })),
      )
    const [lost] = await formFaults(db, found.draft)
    if (lost) throw invalid(`The draft has a fault: ${lost.title}: ${lost.message}`)
    const [latest] = await db
      .select()
      .from(edition)
      .where(eq(edition.templateId, id))
      .orderBy(desc(edition.number))
      .limit(1)
    if (latest && isDeepStrictEqual(latest.content, found.draft))
      throw conflict(`Nothing has changed since edition ${latest.number}.`)
    const made = {
      id: randomUUID(),
      templateId: id,
      number: (latest?.number ?? 0) + 1,
      content: found.draft,
      publishedAt: now(),
      publishedBy: by.id,
      note,
      cases: await caseResults(db, id, prepared.ready),
    }
    await db.insert(edition).values(made)
    return {
      id: made.id,
      number: made.number,
      publishedAt: made.publishedAt.toISOString(),
      publishedBy: by.name,
      note,
      cases: made.cases,
    }
  })
}

/** The newest edition of a template. */
export async function latestEdition(app: App, templateId: string) {
  const [found] = await app.db
    .select()
    .from(edition)
    .where(eq(edition.templateId, templateId))
    .orderBy(desc(edition.number))
    .limit(1)
  if (!found) throw conflict('This template has no edition yet. Publish it first.')
  return found
}
