import { and, asc, eq, lte } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { type Actor, requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { agreement, person } from '#server/db/schema.ts'
import { conflict, notFound, Refusal } from '#server/ground/problem.ts'
import { toPerson } from '#server/services/installation/people.ts'
import { tellSender } from '#server/services/agreements/parties.ts'
import { happened } from '#server/services/agreements/trail.ts'
import { sendOne } from './sending.ts'

const AT_ONCE = 500

/** Job: what was set to go at a time that has come goes, for whoever set it; what cannot go is held, and they are told. */
export async function sendDue(app: App): Promise<void> {
  const due = await app.db
    .select({ id: agreement.id })
    .from(agreement)
    .where(lte(agreement.goesAt, app.now()))
    .orderBy(asc(agreement.goesAt), asc(agreement.number))
    .limit(AT_ONCE)
  for (const { id } of due)
    try {
      await transaction(app, (work) => goNow(work, id))
    } catch (error) {
      if (error instanceof Refusal) await transaction(app, (work) => hold(work, id, null, error.message))
      else app.log.error({ err: error, agreement: id }, 'sending what is due')
    }
  if (due.length === AT_ONCE) await transaction(app, ({ enqueue }) => enqueue('watch-signing', {}))
}

async function goNow(work: Work, id: string): Promise<void> {
  const [row] = await work.db
    .select()
    .from(agreement)
    .where(and(eq(agreement.id, id), lte(agreement.goesAt, work.now())))
    .for('update')
  if (!row?.goesBy) return
  const by = one(await work.db.select().from(person).where(eq(person.id, row.goesBy)))
  const actor: Actor = { ...toPerson(by), via: { kind: 'schedule', what: 'goes at its time' } }
  await sendOne(work, actor, id, { unread: row.goesUnread })
}

/** Somebody holds what was to go by itself. */
export async function holdByHand(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'send')
  await transaction(app, (work) => hold(work, id, by.name, 'by hand'))
}

/** It does not go by itself any more. `by`: whoever holds it; null: it could not go, and whoever sends it is told. */
export async function hold(work: Work, id: string, by: string | null, reason: string): Promise<void> {
  const [row] = await work.db.select().from(agreement).where(eq(agreement.id, id)).for('update')
  if (!row) throw notFound('agreement')
  if (!row.goesAt) {
    if (by === null) return
    throw conflict(`${row.number} is not set to go by itself.`)
  }
  await work.db
    .update(agreement)
    .set({ goesAt: null, goesBy: null, goesUnread: false, changedAt: work.now() })
    .where(eq(agreement.id, id))
  await happened(work, id, by, { act: 'held', detail: { reason } })
  if (by === null)
    await tellSender(
      work,
      { ...row, sentBy: row.goesBy },
      {
        key: `held:${id}:${row.goesAt.toISOString()}`,
        subject: `Not sent: ${row.name}`,
        paragraphs: [
          `${row.name} was to go at its time and could not: ${reason}`,
          'Mend it and send it again.',
        ],
      },
    )
}
