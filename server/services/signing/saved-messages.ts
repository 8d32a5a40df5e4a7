import { randomUUID } from 'node:crypto'
import { asc, count, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { savedMessageEntry } from '#contract/sending.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { noteAct } from '#server/app/installation-trail.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { savedMessage } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'

/** The most that are kept: beyond that nobody finds one. */
const MOST = 200

export async function savedMessages(app: App, by: Person) {
  await requireMay(app, by, 'send')
  return app.db
    .select({
      id: savedMessage.id,
      name: savedMessage.name,
      subject: savedMessage.subject,
      message: savedMessage.message,
    })
    .from(savedMessage)
    .orderBy(asc(savedMessage.name))
}

/** Keeps words under a name; those of the same name are replaced. */
export async function keepMessage(
  app: App,
  by: Person,
  { name, subject, message }: v.InferOutput<typeof savedMessageEntry>,
): Promise<void> {
  await requireMay(app, by, 'send')
  await transaction(app, async ({ db, now }) => {
    const kept = one(await db.select({ messages: count() }).from(savedMessage))
    if (kept.messages >= MOST) throw conflict(`At most ${MOST} messages are kept; drop one first.`)
    const set = { subject, message, changedBy: by.id, changedAt: now() }
    await db
      .insert(savedMessage)
      .values({ id: randomUUID(), name, ...set })
      .onConflictDoUpdate({ target: savedMessage.name, set })
    await noteAct(db, {
      at: now().toISOString(),
      actor: by.name,
      act: 'message kept',
      detail: { name },
    })
  })
}

export async function dropMessage(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'send')
  await transaction(app, async ({ db, now }) => {
    const [gone] = await db.delete(savedMessage).where(eq(savedMessage.id, id)).returning()
    if (!gone) throw notFound('message')
    await noteAct(db, {
      at: now().toISOString(),
      actor: by.name,
      act: 'message dropped',
      detail: { name: gone.name },
    })
  })
}
