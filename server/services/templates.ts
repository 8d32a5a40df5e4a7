import { randomUUID } from 'node:crypto'
import { isDeepStrictEqual } from 'node:util'
import { and, count, desc, eq, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import type { App } from '#server/app.ts'
import { agreement, edition, person, template } from '#server/db/schema.ts'
import { transaction } from '#server/db/transaction.ts'
import { conflict, invalid, notFound } from '#server/problem.ts'

export async function listTemplates(app: App) {
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
    })
    .from(template)
    .innerJoin(person, eq(person.id, template.changedBy))
    .leftJoin(latest, eq(latest.templateId, template.id))
    .leftJoin(used, eq(used.templateId, template.id))
    .orderBy(template.name)
  return rows.map((row) => ({
    ...row,
    agreements: row.agreements ?? 0,
    changedAt: row.changedAt.toISOString(),
  }))
}

export async function readTemplate(app: App, id: string) {
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
    })
    .from(edition)
    .innerJoin(person, eq(person.id, edition.publishedBy))
    .where(eq(edition.templateId, id))
    .orderBy(desc(edition.number))
  const { draft, draftVersion, name, changedAt } = found.template
  return {
    id,
    name,
    draft,
    draftVersion,
    changedAt: changedAt.toISOString(),
    changedBy: found.person.name,
    draftDiffers: !isDeepStrictEqual(editions[0]?.content, draft),
    editions: editions.map(({ content: _content, publishedAt, ...rest }) => ({
      ...rest,
      publishedAt: publishedAt.toISOString(),
    })),
  }
}

/** Saves a draft over the version it was made from; a later version of somebody else is never overwritten. */
export async function saveDraft(app: App, by: Person, id: string, version: number, content: TemplateContent) {
  const changedAt = app.now()
  const [saved] = await app.db
    .update(template)
    .set({ draft: content, name: content.title, draftVersion: version + 1, changedAt, changedBy: by.id })
    .where(and(eq(template.id, id), eq(template.draftVersion, version)))
    .returning({ version: template.draftVersion })
  if (saved) return { version: saved.version, changedAt: changedAt.toISOString() }
  const there = await readTemplate(app, id)
  throw conflict(
    `${there.changedBy} saved this draft after you opened it. Your wording is still here; open the template again to see the other one.`,
  )
}

/** Freezes the draft as the next edition; refused while it has faults, or where nothing has changed. */
export async function publish(app: App, by: Person, id: string, version: number) {
  return transaction(app, async ({ db }) => {
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
      publishedAt: app.now(),
      publishedBy: by.id,
    }
    await db.insert(edition).values(made)
    return {
      id: made.id,
      number: made.number,
      publishedAt: made.publishedAt.toISOString(),
      publishedBy: by.name,
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
