import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { asGiven, readAnswers } from '#core/intake/answers.ts'
import type { AnsweredFile, AnswerProblem } from '#core/intake/answers.ts'
import { questionsOf } from '#core/intake/form.ts'
import type { IntakeForm } from '#core/intake/form.ts'
import { speaks } from '#core/languages/all.ts'
import type { PointedProblem } from '#core/mapping/nested.ts'
import { coerce } from '#core/outline/coerce.ts'
import { isItems } from '#core/outline/field.ts'
import type { FieldValue, Outline, RecordData } from '#core/outline/field.ts'
import { matchKey, planImport } from '#core/records/import.ts'
import { duplicateProblems } from '#core/run/duplicates.ts'
import { labelField } from '#core/run/label.ts'
import type { App } from '#server/app/app.ts'
import type { Work } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { intakeAnswer, intakeFile, intakeForm, party, record, recordFile } from '#server/db/schema.ts'
import { Refusal } from '#server/ground/problem.ts'
import { givenChecker } from '#server/services/making/check-given.ts'
import { makeClaimed } from '#server/services/making/make-claimed.ts'
import { takeTurns } from '#server/services/making/take-turns.ts'
import { fieldsOf, insertRecord, namesTheSame } from '#server/services/records/records.ts'
import { liveAgreements } from '#server/services/runs/check-rows.ts'
import { writeAnswers } from './answer-mails.ts'
import { askedOf, ownerOf, targetsOf } from './forms.ts'
import type { FormRow } from './forms.ts'

// What was handed in becomes a record and agreements, each answer in one transaction: there is never half of it.

type AnswerRow = typeof intakeAnswer.$inferSelect

/** Times that the making of one is tried before it needs a hand. */
const TRIES = 5

/** Job: makes what was handed in, the longest waiting first, until nothing is left that nobody else makes. */
export const makeAnswers = (app: App): Promise<void> =>
  takeTurns<AnswerRow>(app, {
    next: async (db) => {
      const [next] = await db
        .select()
        .from(intakeAnswer)
        .where(eq(intakeAnswer.state, 'handed in'))
        .orderBy(asc(intakeAnswer.handedInAt))
        .limit(1)
        .for('update', { skipLocked: true })
      return next
    },
    make: (work, taken) => make(app, work, taken),
    failed: (taken, error) => notMade(app, taken, error),
  })

/** One that cannot be made needs a hand; what failed otherwise is tried again, a few times. */
async function notMade(app: App, { id, tries }: AnswerRow, error: unknown): Promise<void> {
  const because = error instanceof Refusal ? error.message : null
  if (because === null) app.log.error({ err: error, answer: id }, 'an answer could not be made')
  const message = because ?? 'It could not be made here, after several tries; the log of the server says why.'
  const ends = because !== null || tries + 1 >= TRIES
  await app.db
    .update(intakeAnswer)
    .set({
      tries: tries + 1,
      ...(ends ? { state: 'needs a hand' as const, problems: [{ question: '', message }] } : {}),
    })
    .where(and(eq(intakeAnswer.id, id), eq(intakeAnswer.state, 'handed in'), eq(intakeAnswer.tries, tries)))
}

async function make(app: App, work: Work, answer: AnswerRow): Promise<void> {
  const { db } = work
  const [row] = await db.select().from(intakeForm).where(eq(intakeForm.id, answer.formId))
  const form = row!
  const owner = await ownerOf(app, form)
  const { outline, problems: faults } = await askedOf(app, form)
  const asked = { form: form.content, outline }
  const read = readAnswers(asked, answer.answers, speaks('en'))
  await writeAnswers(app, work, answer, asked, owner)
  const about = await toRecord(app, work, form, answer, read.data, owner)
  await fileAlong(app, db, form, answer, about.recordId)
  const made = await makeAll(app, work, form, { ...answer, ...about }, read.data, owner)
  const problems = [
    ...(outline.length ? [] : faults.map(({ message }) => ({ question: '', message }))),
    ...read.problems,
    ...made.problems,
  ]
  await db
    .update(intakeAnswer)
    .set({
      ...about,
      state: problems.length ? 'needs a hand' : 'made',
      problems,
      agreementIds: [...made.ids],
      changedAt: app.now(),
    })
    .where(eq(intakeAnswer.id, answer.id))
  if (made.ids.length && form.content.afterwards !== 'wait')
    await work.enqueue('send-made', { agreementIds: [...made.ids], by: owner.id })
}

interface About {
  readonly recordId: string | null
  readonly outcome: AnswerRow['outcome']
  readonly differences: AnswerRow['differences']
}

/**
 * The record that an answer becomes: a new one at once; one that is known, by its key or because its own person was asked,
 * is changed by nobody from outside: what differs waits for somebody to say which counts.
 */
async function toRecord(
  app: App,
  work: Work,
  { content }: FormRow,
  answer: AnswerRow,
  data: RecordData,
  owner: Person,
): Promise<About> {
  const { record: into } = content
  // Mended and made again: what was said of the record before stays said.
  if (answer.outcome !== null)
    return { recordId: answer.recordId, outcome: answer.outcome, differences: answer.differences }
  if (!into) return { recordId: answer.recordId, outcome: null, differences: [] }
  const { db } = work
  const fields = await fieldsOf(db, into.kind)
  const own = recordData(fields, into.fields, data)
  const known = await knownRecords(db, into, own, answer.recordId)
  const [step] = planImport(
    fields,
    [{ row: 1, data: own, problems: [] }],
    known.map((each) => ({
      id: each.id,
      data: answer.recordId ? { ...each.data, [into.key]: own[into.key]! } : each.data,
    })),
    into.key,
  )
  if (step!.kind === 'faulty') return { recordId: answer.recordId, outcome: null, differences: [] }
  if (step!.kind === 'new') {
    if (answer.recordId) return { recordId: answer.recordId, outcome: null, differences: [] }
    const id = await insertRecord(app, db, owner, into.kind, own, null)
    await work.enqueue('follow-records', {})
    return { recordId: id, outcome: 'new', differences: [] }
  }
  return step!.kind === 'changed'
    ? { recordId: step!.id, outcome: 'changed', differences: [...step!.differences] }
    : { recordId: step!.id, outcome: 'same', differences: [] }
}

/** Values as the record's own fields read them; what does not fit one of them is left to people. */
export function recordData(
  fields: Outline,
  filled: Readonly<Record<string, string>>,
  data: RecordData,
): RecordData {
  return Object.fromEntries(
    fields.flatMap((field): [string, FieldValue][] => {
      const value = filled[field.name] === undefined ? undefined : data[filled[field.name]!]
      if (value === undefined) return []
      if (isItems(value)) return field.type === 'list' ? [[field.name, value]] : []
      const read = coerce(field, value, null)
      return read.ok && read.value !== null ? [[field.name, read.value]] : []
    }),
  )
}

/** The record that was asked about; else those that have the same key. */
async function knownRecords(
  db: Db,
  { kind, key }: NonNullable<IntakeForm['record']>,
  data: RecordData,
  asked: string | null,
) {
  if (asked)
    return db
      .select({ id: record.id, data: record.data })
      .from(record)
      .where(and(eq(record.id, asked), eq(record.kind, kind)))
  return db
    .select({ id: record.id, data: record.data })
    .from(record)
    .where(
      and(
        eq(record.kind, kind),
        isNull(record.archivedAt),
        namesTheSame(sql`${record.data}->>${key}`, data[key]),
      ),
    )
    .limit(10)
}

/** Files that came along belong to the record too. */
async function fileAlong(
  app: App,
  db: Db,
  { content }: FormRow,
  answer: AnswerRow,
  recordId: string | null,
): Promise<void> {
  if (recordId === null) return
  const named = new Set(
    questionsOf(content)
      .filter(({ kind }) => kind === 'file')
      .flatMap(({ id }) =>
        ((answer.answers[id] ?? []) as readonly AnsweredFile[]).map((each) => `${id} ${each.sha256}`),
      ),
  )
  const files = await db.select().from(intakeFile).where(eq(intakeFile.answerId, answer.id))
  const kept = files.filter((each) => named.has(`${each.question} ${each.sha256}`))
  if (kept.length === 0) return
  await db
    .insert(recordFile)
    .values(
      kept.map(({ sha256, name, size, mediaType }) => ({
        recordId,
        sha256,
        name,
        size,
        mediaType,
        source: `an answer to ${content.title}`,
        at: app.now(),
      })),
    )
    .onConflictDoNothing()
}

/** All agreements of an answer, or none: what is wrong with one of them is told, and keeps the others from being made. */
async function makeAll(
  app: App,
  work: Work,
  form: FormRow,
  answer: AnswerRow,
  data: RecordData,
  owner: Person,
): Promise<{ ids: readonly string[]; problems: readonly AnswerProblem[] }> {
  const problems: AnswerProblem[] = []
  const ready = []
  for (const target of targetsOf(form)) {
    const checker = await givenChecker(app, owner, target, 'answer')
    const names = new Set(checker.fields.map(({ name }) => name))
    const own = Object.fromEntries(Object.entries(data).filter(([name]) => names.has(name)))
    const [checked] = await checker.check([{ values: asGiven(own), at: '' }])
    problems.push(...checked!.problems.map((each) => problemAt(each, names)))
    const live = answer.seen ? null : await liveBefore(work.db, checker, checked!.data)
    if (live) problems.push({ question: '', message: live })
    ready.push({ ...checker, data: checked!.data })
  }
  if (problems.length) return { ids: [], problems }
  const ids: string[] = []
  for (const [place, { made, bundle, rules, data: own }] of ready.entries())
    ids.push(
      await makeClaimed(app, work, {
        bundle,
        made,
        series: bundle.editions[0]!.seriesId,
        origin: { kind: 'answer', form: form.id, answer: answer.id },
        occasion: `answer ${answer.id} ${place}`,
        from: { data: own, language: null, copies: [], extra: [] },
        rules,
        by: owner,
        told: { origin: 'answer', named: form.content.title },
        recordId: answer.recordId,
      }),
    )
  await speakTo(work.db, answer, ids)
  return { ids, problems: [] }
}

/** Whoever answered in a language signs in it, and is written to in it. */
async function speakTo(
  db: Db,
  { email, language }: AnswerRow,
  agreementIds: readonly string[],
): Promise<void> {
  if (email === '' || agreementIds.length === 0) return
  await db
    .update(party)
    .set({ language })
    .where(
      and(inArray(party.agreementId, [...agreementIds]), sql`lower(${party.email}) = ${email.toLowerCase()}`),
    )
}

/** An agreement of the same kind that is under way already: somebody has to say that there is to be another. */
async function liveBefore(
  db: Db,
  { bundle, templateId }: Awaited<ReturnType<typeof givenChecker>>,
  data: RecordData,
): Promise<string | null> {
  const field = labelField(bundle.parts[0].content)
  const said = data[field]
  if (typeof said !== 'string' || !matchKey(said)) return null
  const live = await liveAgreements(db, null, templateId, field)
  return duplicateProblems([{ row: 1, said }], live, { field }).get(1)?.[0]?.message ?? null
}

/** Where a problem is, from where it is in what was given. */
function problemAt({ pointer, message }: PointedProblem, names: ReadonlySet<string>): AnswerProblem {
  const parts = pointer.split('/').slice(1)
  const question = [parts.join('.'), parts[0] ?? ''].find((name) => names.has(name)) ?? ''
  const line = Number(parts[1])
  return question === parts[0] && parts.length > 2 && Number.isInteger(line)
    ? { question, line, item: parts[2]!, message }
    : { question, message }
}
