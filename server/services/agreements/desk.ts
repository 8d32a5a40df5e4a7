import { and, asc, count, desc, eq, gt, inArray, isNull, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { AgreementState } from '#core/agreement/states.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, backgroundWork, party, partyQuestion, person, question, step } from '#server/db/schema.ts'
import { waitingSteps } from './deciding.ts'
import { iso } from './agreement-views.ts'
import { summarise, withTemplate, SHOWN } from './agreements.ts'
import { isLost, undelivered } from './undelivered.ts'

/** Questions about agreements that a person made, which nobody has answered yet. */
async function openQuestions(db: Db, by: Person) {
  const rows = await db
    .select({
      id: question.id,
      agreement: agreement.id,
      number: agreement.number,
      text: question.text,
      askedBy: person.name,
    })
    .from(question)
    .innerJoin(agreement, eq(agreement.id, question.agreementId))
    .innerJoin(person, eq(person.id, question.askedBy))
    .where(and(eq(agreement.createdBy, by.id), isNull(question.answer)))
    .orderBy(asc(question.askedAt))
    .limit(SHOWN)
  return rows
}

/** Questions that parties asked and nobody has answered, of what is still out. */
const openPartyQuestions = (db: Db) =>
  db
    .select({
      id: partyQuestion.id,
      agreement: agreement.id,
      number: agreement.number,
      text: partyQuestion.text,
      askedBy: party.name,
    })
    .from(partyQuestion)
    .innerJoin(agreement, eq(agreement.id, partyQuestion.agreementId))
    .innerJoin(party, eq(party.id, partyQuestion.partyId))
    .where(and(isNull(partyQuestion.answer), eq(agreement.state, 'out')))
    .orderBy(asc(partyQuestion.askedAt))
    .limit(SHOWN)

/** Milliseconds after which a refusal that nothing was done about is past. */
const FRESH = 30 * 86_400_000

async function refusedNow({ db, now }: App) {
  const rows = await db
    .select({
      id: agreement.id,
      number: agreement.number,
      name: agreement.name,
      by: party.name,
      reason: party.reason,
      at: party.declinedAt,
    })
    .from(agreement)
    .innerJoin(party, and(eq(party.agreementId, agreement.id), eq(party.revision, agreement.revision)))
    .where(and(eq(agreement.state, 'declined'), gt(party.declinedAt, new Date(now().getTime() - FRESH))))
    .orderBy(desc(party.declinedAt))
    .limit(SHOWN)
  return rows.map(({ reason, at, ...row }) => ({ ...row, reason: reason ?? '', at: at!.toISOString() }))
}

/** Agreements in one state, the longest there first, and how many there are. */
async function inState(db: Db, state: AgreementState) {
  const rows = await withTemplate(db)
    .where(eq(agreement.state, state))
    .orderBy(asc(agreement.changedAt), asc(agreement.number))
    .limit(SHOWN)
  const [all] = await db.select({ agreements: count() }).from(agreement).where(eq(agreement.state, state))
  return { rows: await summarise(db, rows), total: all?.agreements ?? 0 }
}

/** Why agreements were returned, by their ids: what was said last. */
async function notesOf(db: Db, ids: readonly string[]): Promise<ReadonlyMap<string, string | null>> {
  if (ids.length === 0) return new Map()
  const found = await db
    .selectDistinctOn([step.agreementId], { id: step.agreementId, note: step.note })
    .from(step)
    .where(and(inArray(step.agreementId, [...ids]), eq(step.state, 'returned')))
    .orderBy(step.agreementId, sql`${step.decidedAt} desc`)
  return new Map(found.map(({ id, note }) => [id, note]))
}

/** What waits for one person: approvals of their post, cleared and returned agreements, and what others hold up. */
export async function desk(app: App, by: Person) {
  // Nobody else may decide, or is told of holes; a desk is asked for every few seconds.
  const concerned = by.rights.includes('approve') || by.rights.includes('rules')
  const waitingRows = concerned ? await waitingSteps(app) : []
  const approvalRows = waitingRows
    .filter(({ deciders }) => deciders.some(({ id }) => id === by.id))
    .slice(0, SHOWN)
  const summaries = await summarise(app.db, approvalRows)
  const sends = by.rights.includes('send')
  const cleared = sends ? await inState(app.db, 'cleared') : { rows: [], total: 0 }
  const returned = by.rights.includes('runs') ? await inState(app.db, 'returned') : { rows: [], total: 0 }
  const waiting = sends ? await inState(app.db, 'out') : { rows: [], total: 0 }
  const notes = await notesOf(
    app.db,
    returned.rows.map(({ id }) => id),
  )
  const background = await app.db
    .select({ label: backgroundWork.label, done: backgroundWork.done, total: backgroundWork.total })
    .from(backgroundWork)
    .where(isNull(backgroundWork.endedAt))
  return {
    background,
    approvals: approvalRows.map(({ step: found, deciders }, i) => ({
      stepId: found.id,
      reason: found.reason,
      since: found.since.toISOString(),
      dueAt: iso(found.dueAt),
      standsInFor: deciders.find(({ id }) => id === by.id)?.standsInFor ?? null,
      agreement: summaries[i]!,
    })),
    /** Steps that nobody may decide: whoever keeps the rules has to mend them. */
    holes: by.rights.includes('rules')
      ? waitingRows
          .filter(({ deciders }) => deciders.length === 0)
          .slice(0, SHOWN)
          .map(({ step: found, agreement: row }) => ({
            id: row.id,
            number: row.number,
            name: row.name,
            approver: found.approver,
          }))
      : [],
    questions: [...(await openQuestions(app.db, by)), ...(sends ? await openPartyQuestions(app.db) : [])],
    refused: sends ? await refusedNow(app) : [],
    undelivered: sends ? await undelivered(app.db).where(isLost).limit(SHOWN) : [],
    cleared: cleared.rows,
    clearedTotal: cleared.total,
    returned: returned.rows.map((row) => ({
      agreement: row,
      note: notes.get(row.id) ?? '',
    })),
    waiting: waiting.rows,
    waitingTotal: waiting.total,
  }
}
