import { randomUUID } from 'node:crypto'
import { asc, desc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { packetChange, packetSchema } from '#contract/record.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { bundleConflicts } from '#core/packet/bundle.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { edition, packet, template } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'

type Change = v.InferOutput<typeof packetChange>

/** Packets by name; one whose templates do not go together, or are not all published, says why. */
export async function listPackets(app: App): Promise<v.InferOutput<typeof packetSchema>[]> {
  const found = await app.db.select().from(packet).orderBy(asc(packet.name))
  const templates = await app.db.select({ id: template.id, name: template.name }).from(template)
  const latest = new Map(
    (
      await app.db
        .selectDistinctOn([edition.templateId], {
          templateId: edition.templateId,
          number: edition.number,
          content: edition.content,
        })
        .from(edition)
        .orderBy(edition.templateId, desc(edition.number))
    ).map((each) => [each.templateId, each]),
  )
  return found.map((each) => {
    const parts = each.templates.flatMap((id) => {
      const one = templates.find((known) => known.id === id)
      return one ? [{ ...one, latestEdition: latest.get(id)?.number ?? null }] : []
    })
    const unpublished = parts.find(({ latestEdition }) => latestEdition === null)
    const ready = parts.flatMap(({ id }) => {
      const content = latest.get(id)?.content
      const prepared = content && prepareTemplate(content)
      return prepared?.ok ? [prepared.ready] : []
    })
    const [first, ...others] = ready
    const [clash] = first ? bundleConflicts({ parts: [first, ...others] }) : []
    return {
      id: each.id,
      name: each.name,
      templates: parts,
      problem: unpublished ? `“${unpublished.name}” is not published.` : (clash ?? null),
    }
  })
}

async function check(app: App, { name, templates }: Change, id: string | null): Promise<void> {
  const known = new Set((await app.db.select({ id: template.id }).from(template)).map((each) => each.id))
  if (templates.some((each) => !known.has(each))) throw invalid('One of these templates is not there.')
  if (new Set(templates).size < templates.length) throw invalid('A template stands in a packet once.')
  const [same] = await app.db.select({ id: packet.id }).from(packet).where(eq(packet.name, name))
  if (same && same.id !== id) throw conflict(`There is a packet “${name}” already.`)
}

export async function makePacket(app: App, by: Person, change: Change): Promise<{ id: string }> {
  await requireMay(app, by, 'templates')
  await check(app, change, null)
  const id = randomUUID()
  await app.db.insert(packet).values({ id, ...change, changedAt: app.now(), changedBy: by.id })
  return { id }
}

export async function savePacket(app: App, by: Person, id: string, change: Change): Promise<void> {
  await requireMay(app, by, 'templates')
  await check(app, change, id)
  const saved = await app.db
    .update(packet)
    .set({ ...change, changedAt: app.now(), changedBy: by.id })
    .where(eq(packet.id, id))
    .returning({ id: packet.id })
  if (!saved.length) throw notFound('packet')
}

export async function dropPacket(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'templates')
  await app.db.delete(packet).where(eq(packet.id, id))
}
