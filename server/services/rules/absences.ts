import { randomUUID } from 'node:crypto'
import { and, asc, eq, gte, isNull } from 'drizzle-orm'
import type * as v from 'valibot'
import type { absenceChange, absencesSchema } from '#contract/approval.ts'
import type { Person } from '#contract/person.ts'
import { circleOfStandIns } from '#core/approvers/authority.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { absence, apiKey, person, session } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { forbidden, invalid, notFound } from '#server/ground/problem.ts'
import { directoryOf, today } from './directory.ts'

/** Who is away now or will be, and how whoever asks hears of approvals. */
export async function listAbsences(app: App, by: Person): Promise<v.InferOutput<typeof absencesSchema>> {
  const day = await today(app)
  const directory = await directoryOf(app.db)
  const rows = await app.db.select().from(absence).where(gte(absence.to, day)).orderBy(asc(absence.from))
  const [own] = await app.db.select({ mail: person.approvalMail }).from(person).where(eq(person.id, by.id))
  const named = (id: string) => ({ id, name: directory.people.find((each) => each.id === id)?.name ?? '' })
  return {
    today: day,
    mail: own?.mail ?? 'each',
    absences: rows.map(({ id, personId, from, to, standInId }) => ({
      id,
      person: named(personId),
      from,
      to,
      standIn: standInId === null ? null : named(standInId),
      mine: personId === by.id,
    })),
    colleagues: directory.people.map(({ id, name, post, approves, left }) => ({
      id,
      name,
      post,
      approves,
      left,
    })),
  }
}

/** Says that somebody is away. Refused where their stand-in would hand it back to them. */
export async function addAbsence(
  app: App,
  by: Person,
  { person: whose = by.id, from, to, standIn }: v.InferOutput<typeof absenceChange>,
): Promise<{ id: string }> {
  if (whose !== by.id && !by.rights.includes('rules'))
    throw forbidden('Whoever keeps the rules can say of others that they are away.')
  const directory = await directoryOf(app.db)
  const find = (id: string) => directory.people.find((each) => each.id === id)
  if (!find(whose)) throw notFound('person')
  if (standIn === whose) throw invalid('Nobody stands in for themselves.')
  const other = standIn === null ? null : find(standIn)
  if (other !== null && (!other || other.left || !other.approves))
    throw invalid('Somebody stands in who may approve.')
  const circle = circleOfStandIns(whose, { from, to, standIn }, directory)
  if (circle)
    throw invalid(
      `The stand-ins go round in a circle in that time: ${circle.join(' → ')}. Choose another, or other days.`,
    )
  const id = randomUUID()
  await app.db.insert(absence).values({ id, personId: whose, from, to, standInId: standIn })
  return { id }
}

/** Takes an absence back; one’s own, or by whoever keeps the rules. */
export async function dropAbsence(app: App, by: Person, id: string): Promise<void> {
  const [found] = await app.db.select().from(absence).where(eq(absence.id, id))
  if (!found) throw notFound('absence')
  if (found.personId !== by.id && !by.rights.includes('rules'))
    throw forbidden('This is somebody else’s absence.')
  await app.db.delete(absence).where(eq(absence.id, id))
}

/** Whether a mail comes with each approval that waits, or one a day. */
export const setApprovalMail = async (app: App, by: Person, mail: 'each' | 'daily'): Promise<void> => {
  await app.db.update(person).set({ approvalMail: mail }).where(eq(person.id, by.id))
}

/**
 * Says that somebody does not work here any more: they decide nothing, are asked nothing, and are signed out everywhere; their own
 * keys are taken back. Whoever returns signs in anew.
 */
export async function setLeft(app: App, by: Person, id: string, left: boolean): Promise<void> {
  await requireMay(app, by, 'settings')
  if (id === by.id) throw invalid('Nobody can say so of themselves.')
  await transaction(app, async ({ db, now }) => {
    const found = await db
      .update(person)
      .set({ leftAt: left ? now() : null })
      .where(eq(person.id, id))
      .returning({ id: person.id })
    if (!found.length) throw notFound('person')
    await db.delete(session).where(eq(session.personId, id))
    if (!left) return
    await db
      .update(apiKey)
      .set({ revokedAt: now() })
      .where(and(eq(apiKey.personId, id), isNull(apiKey.teamId), isNull(apiKey.revokedAt)))
  })
}
