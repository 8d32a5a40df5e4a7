import { randomUUID } from 'node:crypto'
import { asc, eq, isNull } from 'drizzle-orm'
import type * as v from 'valibot'
import type { folderWish } from '#contract/next-steps.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { folder } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/ground/problem.ts'
import { NONE } from '#server/ground/secrets.ts'
import { folderProblem } from '#server/outside/folders.ts'

type Wish = v.InferOutput<typeof folderWish>

/** Places that documents are filed to; what opens them is told to nobody again. */
export async function listFolders(app: App, by: Person) {
  await requireMay(app, by, 'settings')
  const found = await app.db.select().from(folder).where(isNull(folder.endedAt)).orderBy(asc(folder.name))
  return found.map(({ id, name, kind, address, userName }) => ({ id, name, kind, address, userName }))
}

/** Adds a place once a file could be put there and taken away again. */
export async function makeFolder(app: App, by: Person, wish: Wish): Promise<{ id: string }> {
  await requireMay(app, by, 'settings')
  const problem = await folderProblem(app.settings, wish)
  if (problem) throw invalid(problem, [{ pointer: '/address', detail: problem }])
  const id = randomUUID()
  await app.db
    .insert(folder)
    .values({ ...wish, secret: app.secrets.seal(wish.secret), id, createdAt: app.now(), createdBy: by.id })
  return { id }
}

/** Files nothing there any more; what is there stays. */
export async function dropFolder(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'settings')
  const ended = await app.db
    .update(folder)
    .set({ endedAt: app.now(), secret: NONE })
    .where(eq(folder.id, id))
    .returning({ id: folder.id })
  if (!ended.length) throw notFound('folder')
}
