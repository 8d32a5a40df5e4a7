import { and, asc, desc, eq, inArray, isNotNull, or, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { answerDetail, answerSummary } from '#contract/intake.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { ANSWER } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { one } from '#server/db/one.ts'
import { agreement, intakeAnswer, intakeFile, intakeForm, person, record } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { changeRecord } from '#server/services/records/records.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import { type Answers, readAnswers } from '#core/intake/answers.ts'
import { speaks } from '#core/languages/all.ts'
import { askedOf, formRow, mustUse } from './forms.ts'
import { fileAlong, recordData } from './make-answers.ts'

// What was answered, as our people see it and see to it.

type AnswerRow = typeof intakeAnswer.$inferSelect
type Summary = v.InferOutput<typeof answerSummary>

const summary = (row: AnswerRow, title: string): Summary => ({
  id: row.id,
  form: { id: row.formId, title },
  name: row.name,
  email: row.email,
  by: row.linkId ? 'open link' : 'invitation',
  state: row.state,
  outcome: row.outcome,
  createdAt: row.createdAt.toISOString(),
  handedInAt: row.handedInAt?.toISOString() ?? null,
  problem: row.problems[0]?.message ?? null,
})

const withForms = (app: App) =>
  app.db
    .select({ row: intakeAnswer, title: sql<string>`${intakeForm.content}->>'title'` })
    .from(intakeAnswer)
    .innerJoin(intakeForm, eq(intakeForm.id, intakeAnswer.formId))

/** What was answered to a form, and who was asked and has not: the newest first. What strangers only began is nobody's business. */
export async function listAnswers(app: App, by: Person, formId: string): Promise<Summary[]> {
  await requireMay(app, by, 'runs')
  await formRow(app, formId)
  const rows = await withForms(app)
    .where(
      and(
        eq(intakeAnswer.formId, formId),
        or(isNotNull(intakeAnswer.handedInAt), isNotNull(intakeAnswer.invitedBy)),
      ),
    )
    .orderBy(desc(sql`coalesce(${intakeAnswer.handedInAt}, ${intakeAnswer.createdAt})`))
    .limit(500)
  return rows.map(({ row, title }) => summary(row, title))
}

/** Answers that somebody has to see to: of their own forms, and of those whose owner has left. */
export async function waitingAnswers(app: App, by: Person): Promise<Summary[]> {
  const rows = await withForms(app)
    .innerJoin(person, eq(person.id, intakeForm.ownerId))
    .where(
      and(
        or(eq(intakeForm.ownerId, by.id), isNotNull(person.leftAt)),
        or(
          eq(intakeAnswer.state, 'needs a hand'),
          and(eq(intakeAnswer.outcome, 'changed'), eq(intakeAnswer.state, 'made')),
        ),
      ),
    )
    .orderBy(asc(intakeAnswer.handedInAt))
    .limit(100)
  return rows.map(({ row, title }) => summary(row, title))
}

/** Answers that became a record, or were asked about it. */
export async function answersOfRecords(
  app: App,
  by: Person,
  recordIds: readonly string[],
): Promise<Summary[]> {
  await requireMay(app, by, 'runs')
  const rows = await withForms(app)
    .where(
      and(
        inArray(intakeAnswer.recordId, [...recordIds]),
        or(isNotNull(intakeAnswer.handedInAt), isNotNull(intakeAnswer.invitedBy)),
      ),
    )
    .orderBy(desc(intakeAnswer.createdAt))
    .limit(100)
  return rows.map(({ row, title }) => summary(row, title))
}

async function answerRow(app: App, id: string): Promise<AnswerRow> {
  const [found] = await app.db.select().from(intakeAnswer).where(eq(intakeAnswer.id, id))
  if (!found) throw notFound('answer')
  return found
}

/** One answer with what became of it. */
export async function readAnswer(
  app: App,
  by: Person,
  id: string,
): Promise<v.InferOutput<typeof answerDetail>> {
  await requireMay(app, by, 'runs')
  const row = await answerRow(app, id)
  const form = await formRow(app, row.formId)
  const { outline } = await askedOf(app, form)
  const [about] = row.recordId ? await app.db.select().from(record).where(eq(record.id, row.recordId)) : []
  const made = row.agreementIds.length
    ? await app.db
        .select({ id: agreement.id, number: agreement.number, name: agreement.name, state: agreement.state })
        .from(agreement)
        .where(inArray(agreement.id, row.agreementIds))
        .orderBy(asc(agreement.number))
    : []
  const files = await app.db
    .select()
    .from(intakeFile)
    .where(eq(intakeFile.answerId, id))
    .orderBy(asc(intakeFile.at))
  return {
    ...summary(row, form.content.title),
    version: row.version,
    language: row.language,
    address: row.address,
    expiresAt: row.expiresAt?.toISOString() ?? null,
    problems: row.problems.map((each) => ({ ...each })),
    differences: row.differences.map((each) => ({ ...each })),
    record: about && about.kind !== 'price' ? { id: about.id, kind: about.kind, name: about.name } : null,
    agreements: made,
    files: files.map(({ sha256, question, name, size, mediaType }) => ({
      sha256,
      question,
      name,
      size,
      mediaType,
    })),
    content: form.content,
    outline: [...outline],
    answers: row.answers,
  }
}

/** Corrects what needs a hand; it is made anew, also where there is an agreement of the kind already. */
export async function mendAnswer(
  app: App,
  by: Person,
  id: string,
  { answers, version }: { readonly answers: Answers; readonly version: number },
): Promise<void> {
  await requireMay(app, by, 'runs')
  const row = await answerRow(app, id)
  await mustUse(app, by, await formRow(app, row.formId))
  await transaction(app, async ({ db, enqueue, now }) => {
    const { to, where } = moving(intakeAnswer.state, ANSWER, 'mend')
    const saved = await db
      .update(intakeAnswer)
      .set({
        answers,
        version: sql`${intakeAnswer.version} + 1`,
        state: to,
        problems: [],
        tries: 0,
        seen: true,
        changedAt: now(),
      })
      .where(and(eq(intakeAnswer.id, id), eq(intakeAnswer.version, version), where))
      .returning({ id: intakeAnswer.id })
    if (!saved.length)
      throw conflict('Somebody saw to this answer after you opened it. Open it again to see how it stands.')
    await enqueue('make-answers', {})
  })
}

/** Which counts where an answer says otherwise than the record: the answer is taken over, or the record stays. */
export async function settleAnswer(app: App, by: Person, id: string, take: boolean): Promise<void> {
  await requireMay(app, by, 'runs')
  const row = await answerRow(app, id)
  const form = await formRow(app, row.formId)
  const { outline } = await askedOf(app, form)
  const into = form.content.record
  await transaction(app, async (work) => {
    const { db, enqueue } = work
    const settled = await db
      .update(intakeAnswer)
      .set({ outcome: take ? 'taken' : 'kept', changedAt: work.now() })
      .where(and(eq(intakeAnswer.id, id), eq(intakeAnswer.outcome, 'changed')))
      .returning({ id: intakeAnswer.id })
    if (!settled.length) throw conflict('Somebody has said already which of the two counts.')
    if (!take || !into || !row.recordId) return
    const before = one(await db.select().from(record).where(eq(record.id, row.recordId)).for('update'))
    const read = readAnswers({ form: form.content, outline }, row.answers, speaks('en'))
    const data = {
      ...before.data,
      ...recordData(await fieldsOf(db, into.kind), into.fields, read.data),
    }
    await changeRecord(work, by, row.recordId, data)
    await fileAlong(work, form, row, row.recordId)
    await enqueue('follow-records', {})
  })
}

/** Puts an answer aside: nothing is made of it any more, and its link leads nowhere. What was made stays. */
export async function dropAnswer(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'runs')
  const row = await answerRow(app, id)
  if (row.state === 'made') throw conflict('Its agreements are made; end those instead.')
  const { to, where } = moving(intakeAnswer.state, ANSWER, 'put aside')
  await app.db
    .update(intakeAnswer)
    .set({ state: to, changedAt: app.now() })
    .where(and(eq(intakeAnswer.id, id), where))
}

/** A file that was handed in with an answer. */
export async function answerFile(app: App, by: Person, id: string, sha256: string) {
  await requireMay(app, by, 'runs')
  const [found] = await app.db
    .select()
    .from(intakeFile)
    .where(and(eq(intakeFile.answerId, id), eq(intakeFile.sha256, sha256)))
    .limit(1)
  if (!found) throw notFound('file')
  return { bytes: await app.files.get(sha256), name: found.name }
}

/** Nights after which what strangers began and never handed in goes, in milliseconds. */
const FORGOTTEN = 60 * 86_400_000

/** Begun answers that nobody came back to, and what came with them. */
export async function forgetBegun(app: App): Promise<void> {
  await app.db
    .delete(intakeAnswer)
    .where(
      and(
        eq(intakeAnswer.state, 'begun'),
        sql`${intakeAnswer.changedAt} < ${new Date(app.now().getTime() - FORGOTTEN).toISOString()}::timestamptz`,
        sql`(${intakeAnswer.expiresAt} is null or ${intakeAnswer.expiresAt} < ${app.now().toISOString()}::timestamptz)`,
      ),
    )
}
