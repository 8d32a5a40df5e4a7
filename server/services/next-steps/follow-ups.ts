import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { App } from '#server/app/app.ts'
import { agreement, followUp } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'

/** What somebody has to do, the earliest due first. */
export async function followUpsOf(app: App, by: Person) {
  const found = await app.db
    .select({ row: followUp, number: agreement.number, name: agreement.name })
    .from(followUp)
    .innerJoin(agreement, eq(agreement.id, followUp.agreementId))
    .where(and(eq(followUp.personId, by.id), isNull(followUp.doneAt)))
    .orderBy(asc(followUp.dueOn), asc(followUp.createdAt))
    .limit(200)
  return found.map(({ row, number, name }) => ({
    id: row.id,
    text: row.text,
    dueOn: row.dueOn,
    agreement: { id: row.agreementId, number, name },
  }))
}

/** Says that it is done. Only their own: what others have to do is theirs to say. */
export async function followUpDone(app: App, by: Person, id: string): Promise<void> {
  const done = await app.db
    .update(followUp)
    .set({ doneAt: app.now(), doneBy: by.id })
    .where(and(eq(followUp.id, id), eq(followUp.personId, by.id), sql`${followUp.doneAt} is null`))
    .returning({ id: followUp.id })
  if (!done.length) throw conflict('It is done already, or somebody else’s to do.')
}
