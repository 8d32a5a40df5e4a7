import { randomUUID } from 'node:crypto'
import { and, asc, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { lookChange, lookSchema } from '#contract/studio.ts'
import { finishedLooks } from '#core/document/look.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { one } from '#server/db/one.ts'
import { look } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'

type LookRow = v.InferOutput<typeof lookSchema>
type Change = v.InferOutput<typeof lookChange>

const shape = ({ id, name, version, look: content }: typeof look.$inferSelect): LookRow => ({
  id,
  name,
  own: true,
  version,
  look: content,
})

/** The finished looks, then one's own. */
export async function listLooks(app: App): Promise<LookRow[]> {
  const own = await app.db.select().from(look).orderBy(asc(look.name))
  return [...finishedLooks.map((each) => ({ ...each, own: false, version: 1 })), ...own.map(shape)]
}

async function refuseTakenName(app: App, name: string, id: string | null): Promise<void> {
  const taken = (await listLooks(app)).find(
    (each) => each.name.toLowerCase() === name.toLowerCase() && each.id !== id,
  )
  if (taken) throw conflict(`There is a look called “${taken.name}” already.`)
}

export async function makeLook(app: App, by: Person, change: Change): Promise<LookRow> {
  await requireMay(app, by, 'templates')
  await refuseTakenName(app, change.name, null)
  const made = one(
    await app.db
      .insert(look)
      .values({
        id: randomUUID(),
        name: change.name,
        look: change.look,
        changedAt: app.now(),
        changedBy: by.id,
      })
      .returning(),
  )
  return shape(made)
}

/** Changes a look over the version it was made from. */
export async function saveLook(app: App, by: Person, id: string, change: Change): Promise<LookRow> {
  await requireMay(app, by, 'templates')
  await refuseTakenName(app, change.name, id)
  const [saved] = await app.db
    .update(look)
    .set({
      name: change.name,
      look: change.look,
      version: change.version + 1,
      changedAt: app.now(),
      changedBy: by.id,
    })
    .where(and(eq(look.id, id), eq(look.version, change.version)))
    .returning()
  if (saved) return shape(saved)
  const [there] = await app.db.select({ id: look.id }).from(look).where(eq(look.id, id))
  throw there
    ? conflict('Somebody changed this look after you opened it. Open it again to see the other change.')
    : notFound('look')
}
