import { asc, desc, eq, inArray } from 'drizzle-orm'
import { templateFields } from '#core/merge/fields.ts'
import type { TemplateContent } from '#core/document/template.ts'
import type { TemplateNames } from '#core/rules/names.ts'
import type { Scope } from '#core/rules/table.ts'
import type { Db } from '#server/db/connect.ts'
import { edition, packet, shelf, template } from '#server/db/schema.ts'

/** Ids of the templates that a scope is about. */
export async function templatesOf(db: Db, scope: Scope): Promise<readonly string[]> {
  if (scope.kind === 'template') return [scope.id]
  if (scope.kind === 'packet') {
    const [found] = await db.select().from(packet).where(eq(packet.id, scope.id))
    return found?.templates ?? []
  }
  const rows = await db
    .select({ id: template.id })
    .from(template)
    .where(scope.kind === 'shelf' ? eq(template.shelfId, scope.id) : undefined)
    .orderBy(asc(template.name))
  return rows.map(({ id }) => id)
}

/** Their fields as last published, or as drafted where they never were. */
export async function namesOfTemplates(db: Db, ids: readonly string[]): Promise<readonly TemplateNames[]> {
  if (ids.length === 0) return []
  const latest = await db
    .selectDistinctOn([edition.templateId], { templateId: edition.templateId, content: edition.content })
    .from(edition)
    .where(inArray(edition.templateId, [...ids]))
    .orderBy(edition.templateId, desc(edition.number))
  const published = new Map(latest.map(({ templateId, content }) => [templateId, content]))
  const rows = await db
    .select({ id: template.id, draft: template.draft })
    .from(template)
    .where(inArray(template.id, [...ids]))
  return ids.flatMap((id) => {
    const content: TemplateContent | undefined = published.get(id) ?? rows.find((row) => row.id === id)?.draft
    return content ? [{ title: content.title, fields: templateFields(content).all }] : []
  })
}

/** Shelves, templates and packets by name. */
export async function allScopes(db: Db) {
  const shelves = await db.select({ id: shelf.id, name: shelf.name }).from(shelf).orderBy(asc(shelf.name))
  const templates = await db
    .select({ id: template.id, name: template.name })
    .from(template)
    .orderBy(asc(template.name))
  const packets = await db.select({ id: packet.id, name: packet.name }).from(packet).orderBy(asc(packet.name))
  return [
    ...shelves.map((each) => ({ kind: 'shelf' as const, ...each })),
    ...templates.map((each) => ({ kind: 'template' as const, ...each })),
    ...packets.map((each) => ({ kind: 'packet' as const, ...each })),
  ]
}

/** Whether a scope is about what is made of these templates: a packet’s is about all of them together. */
export async function isAbout(db: Db, scope: Scope, templateIds: readonly string[]): Promise<boolean> {
  if (scope.kind === 'all') return true
  const those = await templatesOf(db, scope)
  return scope.kind === 'packet'
    ? templateIds.length > 1 &&
        those.length === templateIds.length &&
        those.every((id) => templateIds.includes(id))
    : those.some((id) => templateIds.includes(id))
}
