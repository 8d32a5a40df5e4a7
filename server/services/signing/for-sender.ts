import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, edition } from '#server/db/schema.ts'
import { notFound } from '#server/ground/problem.ts'
import { requireShelf } from '#server/services/templates/shelves.ts'

/** An agreement with its wording, for somebody who may send, and use its template's shelf, now; `lock`: for an act. */
export async function forSender(db: Db, by: Person, id: string, lock = false) {
  await requireMay({ db }, by, 'send')
  const asked = db
    .select({ row: agreement, content: edition.content, templateId: edition.templateId })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(eq(agreement.id, id))
  const [found] = await (lock ? asked.for('update', { of: agreement }) : asked)
  if (!found) throw notFound('agreement')
  await requireShelf(db, by, [found.templateId])
  return found
}
