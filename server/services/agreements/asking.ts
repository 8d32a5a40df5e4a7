import { randomUUID } from 'node:crypto'
import { and, eq, inArray } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { Decider } from '#core/approvers/authority.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { agreement, person, question, step } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { decidersNow } from './deciding.ts'
import { enqueueEmail } from './mails.ts'
import { opened, refuseDecided, refuseOthers } from './open-step.ts'
import { dueFrom, type Step, tellSteps } from './routes.ts'
import { happened } from './trail.ts'

// What goes with an approval besides deciding it: handed over, reminded of, asked about and answered.

type Agreement = typeof agreement.$inferSelect

/** Hands one step to somebody else, who may decide it besides those who are asked. */
export async function handOver(
  app: App,
  by: Person,
  agreementId: string,
  stepId: string,
  { to, note }: { readonly to: string; readonly note: string },
): Promise<void> {
  await requireMay(app, by, 'approve')
  await transaction(app, async (work) => {
    const { row, step: found, authority, as } = await opened(work, by, agreementId, stepId)
    refuseOthers(by, row, found, as)
    await refuseDecided(work.db, row, found)
    const receiver = authority.directory.people.find(({ id }) => id === to)
    if (!receiver || receiver.left || !receiver.approves)
      throw invalid('It can be handed to somebody who may approve.')
    if (row.shapedBy.includes(to))
      throw invalid(`${receiver.name} started or changed it, and cannot approve it.`)
    const handed = one(
      await work.db
        .update(step)
        .set({ handedTo: to, since: work.now(), dueAt: dueFrom(found.days, work.now()) })
        .where(eq(step.id, stepId))
        .returning(),
    )
    await happened(work, row.id, by.name, {
      act: 'handed over',
      detail: { as: found.approver, to: receiver.name, note },
    })
    await tellSteps(work, row, [{ ...handed, who: [] }], authority.directory)
  })
}

/** Milliseconds before which nobody is reminded of the same step again. */
const REMINDED = 3_600_000

/** Mails those who may decide a step once more. */
export async function remind(app: App, by: Person, agreementId: string, stepId: string): Promise<void> {
  await requireMay(app, by, 'runs')
  await transaction(app, async (work) => {
    const { row, step: found, authority } = await opened(work, by, agreementId, stepId)
    await refuseDecided(work.db, row, found)
    const now = work.now()
    if (found.remindedAt && now.getTime() - found.remindedAt.getTime() < REMINDED)
      throw conflict('They were reminded within the last hour.')
    const deciders = decidersNow(authority, found, row)
    if (!deciders.length) throw conflict('Nobody may decide this now.')
    await work.db.update(step).set({ remindedAt: now }).where(eq(step.id, stepId))
    await mailDeciders(
      work,
      row,
      found,
      deciders,
      `reminder:${stepId}:${now.getTime()}`,
      `${by.name} reminds you of it.`,
    )
    await happened(work, row.id, by.name, {
      act: 'reminded',
      detail: { as: found.approver, to: deciders.map(({ name }) => name).join(', ') },
    })
  })
}

/** Writes to all who may decide a step; `key` names the occasion. */
export async function mailDeciders(
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
    await enqueueEmail(work, {
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
        link: { label: 'Open it', url: `${work.settings.publicUrl}/approvals/${found.id}` },
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
  await requireMay(app, by, 'approve')
  await transaction(app, async (work) => {
    const { row, step: found, as } = await opened(work, by, agreementId, stepId)
    refuseOthers(by, row, found, as)
    await refuseDecided(work.db, row, found)
    const id = randomUUID()
    await work.db
      .insert(question)
      .values({ id, agreementId, stepId, askedBy: by.id, askedAt: work.now(), text })
    await happened(work, row.id, by.name, {
      act: 'asked',
      detail: { as: found.approver, question: text },
    })
    const author = one(await work.db.select().from(person).where(eq(person.id, row.createdBy)))
    await enqueueEmail(work, {
      key: `question:${id}`,
      agreementId: row.id,
      to: author.email,
      subject: `A question about ${row.name}`,
      body: {
        greeting: `${author.name},`,
        paragraphs: [`${by.name} asks before approving ${row.name}:`, text],
        link: { label: 'Answer it', url: `${work.settings.publicUrl}/agreements/${row.id}` },
        attachment: null,
      },
    })
  })
}

/** Answers a decider’s question, once. */
export async function answer(
  app: App,
  by: Person,
  agreementId: string,
  questionId: string,
  text: string,
): Promise<void> {
  await requireMay(app, by, 'runs')
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
      .set({ answer: text, answeredBy: by.id, answeredAt: work.now() })
      .where(eq(question.id, questionId))
    await happened(work, row.id, by.name, {
      act: 'answered',
      detail: { question: found.text, answer: text },
    })
    const asker = one(await work.db.select().from(person).where(eq(person.id, found.askedBy)))
    await enqueueEmail(work, {
      key: `answer:${questionId}`,
      agreementId: row.id,
      to: asker.email,
      subject: `Answered: ${row.name}`,
      body: {
        greeting: `${asker.name},`,
        paragraphs: [`You asked: ${found.text}`, `${by.name} answers: ${text}`],
        link: { label: 'Open it', url: `${work.settings.publicUrl}/approvals/${found.stepId}` },
        attachment: null,
      },
    })
  })
}
