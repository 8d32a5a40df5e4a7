import { randomUUID } from 'node:crypto'
import { and, eq, inArray } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { Decider } from '#core/approvers/authority.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, person, question, step, wordingOpened } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Work } from '#server/app/transaction.ts'
import { conflict, forbidden, invalid, notFound, Refusal } from '#server/ground/problem.ts'
import { hourIn } from '#core/organisation/organisation.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { today } from '#server/services/rules/directory.ts'
import { makeMove } from './agreements.ts'
import { authorityNow, decidersNow, waitingSteps } from './deciding.ts'
import type { Authority } from './deciding.ts'
import { post } from './mails.ts'
import { dueFrom, keepSteps, openNext, presentSteps, tellSteps } from './routes.ts'
import type { Step } from './routes.ts'
import { happened } from './trail.ts'

type Agreement = typeof agreement.$inferSelect

export type Decision =
  | { readonly decision: 'approve'; readonly note: string }
  | { readonly decision: 'return'; readonly note: string; readonly to?: string | null | undefined }

/** An agreement locked for an act on one of its steps, and in what capacity whoever acts may decide it. */
async function opened(app: App, { db }: Work, by: Person, agreementId: string, stepId: string) {
  const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId)).for('update')
  const [found] = await db
    .select()
    .from(step)
    .where(and(eq(step.id, stepId), eq(step.agreementId, agreementId)))
  if (!row || !found) throw notFound('approval')
  const authority = await authorityNow(app, db)
  const as = decidersNow(authority, found, row).find(({ id }) => id === by.id)
  return { row, step: found, authority, as: as ?? null }
}

function refuseOthers(by: Person, row: Agreement, found: Step, as: Decider | null): asserts as is Decider {
  if (as) return
  throw forbidden(
    row.shapedBy.includes(by.id)
      ? 'Nobody approves an agreement that they started or changed themselves.'
      : `This approval is for ${found.approver}.`,
  )
}

/** A step that waits, of the round and revision that count. */
async function refuseDecided(db: Db, row: Agreement, found: Step): Promise<void> {
  const present = await presentSteps(db, row)
  if (found.state === 'to come' && present.some(({ id }) => id === found.id))
    throw conflict('Earlier approvals are asked for first.')
  if (found.state !== 'waiting' || !present.some(({ id }) => id === found.id))
    throw conflict('This has been decided already.')
}

/** Approves or returns one step. Two deciders at once: the first counts, the second is told. */
export async function decide(
  app: App,
  by: Person,
  agreementId: string,
  stepId: string,
  decision: Decision,
): Promise<void> {
  await transaction(app, async (work) => {
    const { row, step: found, authority, as } = await opened(app, work, by, agreementId, stepId)
    refuseOthers(by, row, found, as)
    await refuseDecided(work.db, row, found)
    if (decision.decision === 'approve')
      await approve(app, work, by, row, found, as, decision.note, authority)
    else await giveBack(app, work, by, row, found, as, decision, authority)
  })
}

const inTheName = (as: Decider) => (as.standsInFor === null ? {} : { for: as.standsInFor })

async function approve(
  app: App,
  work: Work,
  by: Person,
  row: Agreement,
  found: Step,
  as: Decider,
  note: string,
  { directory }: Authority,
): Promise<void> {
  await work.db
    .update(step)
    .set({
      state: 'approved',
      note: note || null,
      decidedAt: app.now(),
      decidedBy: by.id,
      decidedFor: as.standsInFor,
    })
    .where(eq(step.id, found.id))
  await openNext(app, work, row, directory)
  const moved = await makeMove(app, work.db, row.id, 'approve')
  await happened(app, work, row.id, by.name, {
    act: 'approved',
    detail: { as: found.approver, reason: found.reason, note, ...inTheName(as) },
  })
  if (moved.state === 'cleared')
    await happened(app, work, row.id, null, {
      act: 'cleared',
      detail: { reason: 'All approvals are given' },
    })
}

/** Returns it to its author, or to somebody who has approved it already: theirs is asked for again. */
async function giveBack(
  app: App,
  work: Work,
  by: Person,
  row: Agreement,
  found: Step,
  as: Decider,
  { note, to }: Extract<Decision, { decision: 'return' }>,
  { directory }: Authority,
): Promise<void> {
  const { db } = work
  const present = await presentSteps(db, row)
  const earlier = to ? present.find(({ id, state }) => id === to && state === 'approved') : null
  if (to && !earlier) throw invalid('It can go back only to somebody who has approved it.')
  await db
    .update(step)
    .set({
      state: 'returned',
      note,
      decidedAt: app.now(),
      decidedBy: by.id,
      decidedFor: as.standsInFor,
      dueAt: null,
    })
    .where(eq(step.id, found.id))
  const told = { as: found.approver, reason: found.reason, note, ...inTheName(as) }
  if (!earlier) {
    await makeMove(app, db, row.id, 'return')
    await happened(app, work, row.id, by.name, { act: 'returned', detail: told })
    return
  }
  await db
    .update(step)
    .set({ state: 'fallen', dueAt: null })
    .where(
      and(
        eq(step.agreementId, row.id),
        eq(step.revision, row.revision),
        eq(step.round, found.round),
        inArray(step.state, ['waiting', 'to come']),
      ),
    )
  const now = app.now()
  const round = found.round + 1
  const again = present.map((each) => {
    const kept = each.state === 'approved' && each.id !== earlier.id
    const asked = {
      ...each,
      id: randomUUID(),
      round,
      escalatedAt: null,
      remindedAt: null,
    }
    return kept
      ? { ...asked, keptFrom: each.id }
      : { ...asked, ...undecided, state: 'to come' as Step['state'], since: now, dueAt: null as Date | null }
  })
  const first = Math.min(...again.filter(({ state }) => state === 'to come').map(({ order }) => order))
  for (const each of again)
    if (each.state === 'to come' && each.order === first) {
      each.state = 'waiting'
      each.dueAt = dueFrom(each.days, now)
    }
  await keepSteps(db, again)
  await db.update(agreement).set({ changedAt: now }).where(eq(agreement.id, row.id))
  await happened(app, work, row.id, by.name, { act: 'returned', detail: { ...told, to: earlier.approver } })
  await tellSteps(app, work, row, again, directory)
}

const undecided = { decidedAt: null, decidedBy: null, decidedFor: null, note: null, keptFrom: null }

/** A key of what somebody has to have opened before they approve it with others at once. */
const wordingKey = ({ id, content, revision, wording }: Agreement): string =>
  content === null ? wording : `${id} ${revision}`

/** Notes that somebody has an agreement's wording before their eyes. */
export async function noteOpened(app: App, by: Person, agreementId: string): Promise<void> {
  const [row] = await app.db.select().from(agreement).where(eq(agreement.id, agreementId))
  if (!row) throw notFound('agreement')
  await app.db
    .insert(wordingOpened)
    .values({ personId: by.id, editionId: row.editionId, wording: wordingKey(row), at: app.now() })
    .onConflictDoNothing()
}

/** Approves many, each by itself; what cannot be approved says why. Refused where their wording has not been opened. */
export async function approveMany(
  app: App,
  by: Person,
  steps: readonly { readonly agreement: string; readonly step: string }[],
): Promise<{ approved: number; refused: { number: string; problem: string }[] }> {
  const seen = new Set(
    (await app.db.select().from(wordingOpened).where(eq(wordingOpened.personId, by.id))).map(
      ({ editionId, wording }) => `${editionId} ${wording}`,
    ),
  )
  const told = { approved: 0, refused: [] as { number: string; problem: string }[] }
  for (const each of steps) {
    const [row] = await app.db.select().from(agreement).where(eq(agreement.id, each.agreement))
    const number = row?.number ?? ''
    if (row && !seen.has(`${row.editionId} ${wordingKey(row)}`)) {
      told.refused.push({ number, problem: 'You have not opened an agreement of its wording yet.' })
      continue
    }
    try {
      await decide(app, by, each.agreement, each.step, { decision: 'approve', note: '' })
      told.approved++
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      told.refused.push({ number, problem: error.message })
    }
  }
  return told
}

/** Hands one step to somebody else, who may decide it besides those who are asked. */
export async function handOver(
  app: App,
  by: Person,
  agreementId: string,
  stepId: string,
  { to, note }: { readonly to: string; readonly note: string },
): Promise<void> {
  await transaction(app, async (work) => {
    const { row, step: found, authority, as } = await opened(app, work, by, agreementId, stepId)
    refuseOthers(by, row, found, as)
    await refuseDecided(work.db, row, found)
    const receiver = authority.directory.people.find(({ id }) => id === to)
    if (!receiver || receiver.left || !receiver.approves)
      throw invalid('It can be handed to somebody who may approve.')
    if (row.shapedBy.includes(to))
      throw invalid(`${receiver.name} started or changed it, and cannot approve it.`)
    const [handed] = await work.db
      .update(step)
      .set({ handedTo: to, since: app.now(), dueAt: dueFrom(found.days, app.now()) })
      .where(eq(step.id, stepId))
      .returning()
    await happened(app, work, row.id, by.name, {
      act: 'handed over',
      detail: { as: found.approver, to: receiver.name, note },
    })
    await tellSteps(app, work, row, [{ ...handed!, who: [] }], authority.directory)
  })
}

/** Milliseconds before which nobody is reminded of the same step again. */
const REMINDED = 3_600_000

/** Mails those who may decide a step once more. */
export async function remind(app: App, by: Person, agreementId: string, stepId: string): Promise<void> {
  await transaction(app, async (work) => {
    const { row, step: found, authority } = await opened(app, work, by, agreementId, stepId)
    await refuseDecided(work.db, row, found)
    const now = app.now()
    if (found.remindedAt && now.getTime() - found.remindedAt.getTime() < REMINDED)
      throw conflict('They were reminded within the last hour.')
    const deciders = decidersNow(authority, found, row)
    if (!deciders.length) throw conflict('Nobody may decide this now.')
    await work.db.update(step).set({ remindedAt: now }).where(eq(step.id, stepId))
    await mailDeciders(
      app,
      work,
      row,
      found,
      deciders,
      `reminder:${stepId}:${now.getTime()}`,
      `${by.name} reminds you of it.`,
    )
    await happened(app, work, row.id, by.name, {
      act: 'reminded',
      detail: { as: found.approver, to: deciders.map(({ name }) => name).join(', ') },
    })
  })
}

async function mailDeciders(
  app: App,
  work: Work,
  row: Pick<Agreement, 'id' | 'name'>,
  found: Step,
  deciders: readonly Pick<Decider, 'id' | 'name'>[],
  key: string,
  why: string,
): Promise<void> {
  const people = await work.db
    .select({ id: person.id, name: person.name, email: person.email })
    .from(person)
    .where(
      inArray(
        person.id,
        deciders.map(({ id }) => id),
      ),
    )
  for (const { id, name, email } of people)
    await post(app, work, {
      key: `${key}:${id}`,
      agreementId: row.id,
      to: email,
      subject: `Still to approve: ${row.name}`,
      body: {
        greeting: `${name},`,
        paragraphs: [
          `${row.name} waits for approval by ${found.approver}. ${why}`,
          `Why it is asked for: ${found.reason}.`,
        ],
        link: { label: 'Open it', url: `${app.settings.publicUrl}/approvals/${found.id}` },
        attachment: null,
      },
    })
}

/** Asks whoever made an agreement, before deciding; the question stays with the agreement. */
export async function ask(
  app: App,
  by: Person,
  agreementId: string,
  stepId: string,
  text: string,
): Promise<void> {
  await transaction(app, async (work) => {
    const { row, step: found, as } = await opened(app, work, by, agreementId, stepId)
    refuseOthers(by, row, found, as)
    await refuseDecided(work.db, row, found)
    const id = randomUUID()
    await work.db
      .insert(question)
      .values({ id, agreementId, stepId, askedBy: by.id, askedAt: app.now(), text })
    await happened(app, work, row.id, by.name, {
      act: 'asked',
      detail: { as: found.approver, question: text },
    })
    const [author] = await work.db.select().from(person).where(eq(person.id, row.createdBy))
    await post(app, work, {
      key: `question:${id}`,
      agreementId: row.id,
      to: author!.email,
      subject: `A question about ${row.name}`,
      body: {
        greeting: `${author!.name},`,
        paragraphs: [`${by.name} asks before approving ${row.name}:`, text],
        link: { label: 'Answer it', url: `${app.settings.publicUrl}/agreements/${row.id}` },
        attachment: null,
      },
    })
  })
}

export async function answer(
  app: App,
  by: Person,
  agreementId: string,
  questionId: string,
  text: string,
): Promise<void> {
  await transaction(app, async (work) => {
    const [row] = await work.db.select().from(agreement).where(eq(agreement.id, agreementId)).for('update')
    const [found] = await work.db
      .select()
      .from(question)
      .where(and(eq(question.id, questionId), eq(question.agreementId, agreementId)))
    if (!row || !found) throw notFound('question')
    if (found.answer !== null) throw conflict('This has been answered already.')
    await work.db
      .update(question)
      .set({ answer: text, answeredBy: by.id, answeredAt: app.now() })
      .where(eq(question.id, questionId))
    await happened(app, work, row.id, by.name, {
      act: 'answered',
      detail: { question: found.text, answer: text },
    })
    const [asker] = await work.db.select().from(person).where(eq(person.id, found.askedBy))
    await post(app, work, {
      key: `answer:${questionId}`,
      agreementId: row.id,
      to: asker!.email,
      subject: `Answered: ${row.name}`,
      body: {
        greeting: `${asker!.name},`,
        paragraphs: [`You asked: ${found.text}`, `${by.name} answers: ${text}`],
        link: { label: 'Open it', url: `${app.settings.publicUrl}/approvals/${found.stepId}` },
        attachment: null,
      },
    })
  })
}

/** Job: finds steps that are overdue, asks those whom their table names to decide them too, and tells everybody concerned. */
export async function watchApprovals(app: App): Promise<void> {
  const now = app.now()
  const overdue = (await waitingSteps(app, app.db)).filter(
    ({ step: found }) => found.dueAt && found.dueAt <= now && !found.escalatedAt,
  )
  for (const { step: found, agreement: row } of overdue)
    await transaction(app, async (work) => {
      const [locked] = await work.db.select().from(step).where(eq(step.id, found.id)).for('update')
      if (locked?.state !== 'waiting' || locked.escalatedAt) return
      const who = [...locked.who, ...locked.escalateTo]
      await work.db.update(step).set({ who, escalatedAt: now }).where(eq(step.id, found.id))
      const deciders = decidersNow(await authorityNow(app, work.db), { ...locked, who }, row)
      await mailDeciders(app, work, row, locked, deciders, `overdue:${found.id}`, 'It is overdue.')
      await happened(app, work, row.id, null, {
        act: 'overdue',
        detail: { as: locked.approver, to: deciders.map(({ name }) => name).join(', ') || 'nobody' },
      })
    })
}

/** The hour of the day, in the organisation's calendar, from which the day's mail goes out. */
const MORNING = 7

/** Job: one mail a day, in the morning, to those who want to hear of their approvals so, about all that wait for them. */
export async function digestApprovals(app: App): Promise<void> {
  const { timeZone } = await organisationOf(app.db)
  if (hourIn(timeZone, app.now()) < MORNING) return
  const waiting = await waitingSteps(app, app.db)
  const day = await today(app, app.db)
  const readers = await app.db.select().from(person).where(eq(person.approvalMail, 'daily'))
  for (const reader of readers) {
    const theirs = waiting.filter(({ deciders }) => deciders.some(({ id }) => id === reader.id))
    if (!theirs.length) continue
    const told = theirs.slice(0, 40).map(({ agreement: row, step: found }) => `${row.name}: ${found.reason}`)
    await transaction(app, (work) =>
      post(app, work, {
        key: `digest:${reader.id}:${day}`,
        agreementId: null,
        to: reader.email,
        subject: `${theirs.length} to approve`,
        body: {
          greeting: `${reader.name},`,
          paragraphs: [
            theirs.length === 1
              ? 'One agreement waits for your approval.'
              : `${theirs.length} agreements wait for your approval.`,
            ...told,
            ...(theirs.length > told.length ? [`And ${theirs.length - told.length} more.`] : []),
          ],
          link: { label: 'Open them', url: `${app.settings.publicUrl}/approvals` },
          attachment: null,
        },
      }),
    )
  }
}
