import { randomUUID } from 'node:crypto'
import { asc, desc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { libraryClauseChange, libraryClauseSchema, libraryEditionSchema } from '#contract/studio.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { allBlocks } from '#core/document/walk.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { libraryClause, libraryEdition, person, template } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, notFound } from '#server/ground/problem.ts'

type Kept = v.InferOutput<typeof libraryClauseSchema>
type Change = v.InferOutput<typeof libraryClauseChange>

/** Where a draft has clauses of the library: by clause, with the edition and how often. */
function usesOf(content: TemplateContent) {
  const uses = new Map<string, { linked: boolean; edition: number; count: number }>()
  for (const block of allBlocks(content.document.content)) {
    const source = block.type === 'clause' ? block.attrs.source : null
    if (!source) continue
    const before = uses.get(source.clause)
    uses.set(source.clause, {
      linked: source.linked || (before?.linked ?? false),
      edition: Math.min(source.edition, before?.edition ?? source.edition),
      count: (before?.count ?? 0) + 1,
    })
  }
  return uses
}

/** All clauses in their newest edition, by title, with the templates whose drafts have them. */
export async function listLibrary(app: App): Promise<Kept[]> {
  const newest = await app.db
    .selectDistinctOn([libraryEdition.clauseId], {
      clause: libraryClause,
      edition: libraryEdition,
      by: person.name,
    })
    .from(libraryEdition)
    .innerJoin(libraryClause, eq(libraryClause.id, libraryEdition.clauseId))
    .innerJoin(person, eq(person.id, libraryEdition.publishedBy))
    .orderBy(libraryEdition.clauseId, desc(libraryEdition.number))
  const drafts = await app.db
    .select({ id: template.id, name: template.name, draft: template.draft })
    .from(template)
    .orderBy(asc(template.name))
  const uses = drafts.map(({ id, name, draft }) => ({ template: id, name, uses: usesOf(draft) }))
  return newest
    .map(({ clause, edition, by }) => ({
      id: clause.id,
      title: clause.title,
      tags: [...clause.tags],
      edition: edition.number,
      content: edition.content,
      changedAt: edition.publishedAt.toISOString(),
      changedBy: by,
      usedIn: uses.flatMap(({ template: id, name, uses: found }) => {
        const use = found.get(clause.id)
        return use ? [{ template: id, name, ...use }] : []
      }),
    }))
    .sort((a, b) => a.title.localeCompare(b.title))
}

async function readClause(app: App, id: string): Promise<Kept> {
  const found = (await listLibrary(app)).find((clause) => clause.id === id)
  if (!found) throw notFound('clause')
  return found
}

/** Puts a clause into the library as its first edition. What it was linked to before does not come along. */
export async function keepClause(app: App, by: Person, change: Change): Promise<Kept> {
  await requireMay(app, by, 'templates')
  const id = randomUUID()
  await transaction(app, async ({ db, now }) => {
    await db.insert(libraryClause).values({ id, title: change.title, tags: change.tags })
    await db.insert(libraryEdition).values({
      clauseId: id,
      number: 1,
      content: unlinked(change.content),
      publishedAt: now(),
      publishedBy: by.id,
    })
  })
  return readClause(app, id)
}

const unlinked = (clause: Change['content']): Change['content'] => ({
  ...clause,
  attrs: { ...clause.attrs, source: null },
})

/** Makes the next edition; templates keep the one they have until somebody takes the new one over. */
export async function changeClause(app: App, by: Person, id: string, change: Change): Promise<Kept> {
  await requireMay(app, by, 'templates')
  await transaction(app, async ({ db, now }) => {
    const [there] = await db.select().from(libraryClause).where(eq(libraryClause.id, id)).for('update')
    if (!there) throw notFound('clause')
    const newest = one(
      await db
        .select()
        .from(libraryEdition)
        .where(eq(libraryEdition.clauseId, id))
        .orderBy(desc(libraryEdition.number))
        .limit(1),
    )
    if (newest.number !== change.edition)
      throw conflict(`Somebody made edition ${newest.number} of this clause after you opened it.`)
    await db
      .update(libraryClause)
      .set({ title: change.title, tags: change.tags })
      .where(eq(libraryClause.id, id))
    if (JSON.stringify(newest.content) === JSON.stringify(unlinked(change.content))) return
    await db.insert(libraryEdition).values({
      clauseId: id,
      number: change.edition + 1,
      content: unlinked(change.content),
      publishedAt: now(),
      publishedBy: by.id,
    })
  })
  return readClause(app, id)
}

export async function clauseEditions(
  app: App,
  id: string,
): Promise<v.InferOutput<typeof libraryEditionSchema>[]> {
  const found = await app.db
    .select({ edition: libraryEdition, by: person.name })
    .from(libraryEdition)
    .innerJoin(person, eq(person.id, libraryEdition.publishedBy))
    .where(eq(libraryEdition.clauseId, id))
    .orderBy(desc(libraryEdition.number))
  if (!found.length) throw notFound('clause')
  return found.map(({ edition, by }) => ({
    number: edition.number,
    content: edition.content,
    publishedAt: edition.publishedAt.toISOString(),
    publishedBy: by,
  }))
}
