import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { type AnsweredFile, type AnswerProblem, asGiven, readAnswers } from '#core/intake/answers.ts'
import { type IntakeForm, questionsOf } from '#core/intake/form.ts'
import { respondentRole } from '#core/intake/respondent.ts'
import { speaks } from '#core/languages/all.ts'
import type { PointedProblem } from '#core/mapping/nested.ts'
import { coerce } from '#core/outline/coerce.ts'
import { type FieldValue, isItems, type Outline, type RecordData } from '#core/outline/field.ts'
import { matchKey, planImport } from '#core/records/import.ts'
import { duplicateProblems } from '#core/run/duplicates.ts'
import { labelField } from '#core/run/label.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work, Ground } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { ANSWER } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { intakeAnswer, intakeFile, intakeForm, party, record, recordFile } from '#server/db/schema.ts'
import { Refusal } from '#server/ground/problem.ts'
import { givenChecker } from '#server/services/making/check-given.ts'
import { makeClaimed, type Single } from '#server/services/making/make-claimed.ts'
import { takeFirst } from '#server/db/held.ts'
import { one } from '#server/db/one.ts'
import { takeTurns } from '#server/services/making/take-turns.ts'
import { insertRecord, namesTheSame } from '#server/services/records/records.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import { liveAgreements } from '#server/services/runs/check-rows.ts'
import { writeAnswers } from './answer-mails.ts'
import { askedOf, type FormRow, ownerOf, targetsOf } from './forms.ts'
import { goesUnseen } from './same-sitting.ts'

// What was handed in becomes a record and agreements, each answer in one transaction: there is never half of it.

type AnswerRow = typeof intakeAnswer.$inferSelect

/** Times that the making of one is tried before it needs a hand. */
const TRIES = 5
/** Milliseconds that one is a worker's own. */
const HELD = 120_000

/** Job: makes what was handed in, the longest waiting first, until nothing is left that nobody else makes. */
export const makeAnswers = (app: App): Promise<void> =>
  takeTurns<AnswerRow>({
    take: () =>
      takeFirst(app, intakeAnswer, eq(intakeAnswer.state, 'handed in'), [asc(intakeAnswer.handedInAt)], HELD),
    make: (taken) => make(app, taken),
    failed: (taken, error) => notMade(app, taken, error),
  })

/** One that cannot be made needs a hand; what failed otherwise is tried again, a few times. */
async function notMade(app: App, { id, tries }: AnswerRow, error: unknown): Promise<void> {
  const because = error instanceof Refusal ? error.message : null
  if (because === null) app.log.error({ err: error, answer: id }, 'an answer could not be made')
  const message = because ?? 'It could not be made here, after several tries; the log of the server says why.'
  const ends = because !== null || tries + 1 >= TRIES
  const { to, where } = moving(intakeAnswer.state, ANSWER, 'ask for a hand')
  await app.db
    .update(intakeAnswer)
    .set({
      tries: tries + 1,
      heldUntil: null,
      ...(ends ? { state: to, problems: [{ question: '', message }] } : {}),
    })
    .where(and(eq(intakeAnswer.id, id), where, eq(intakeAnswer.tries, tries)))
}

async function make(app: App, answer: AnswerRow): Promise<void> {
  const row = one(await app.db.select().from(intakeForm).where(eq(intakeForm.id, answer.formId)))
  const form = row
  const owner = await ownerOf(app, form)
  await requireMay(app, owner, 'runs')
  const { outline, problems: faults } = await askedOf(app, form)
  const asked = { form: form.content, outline }
  const read = readAnswers(asked, answer.answers, speaks('en'))
  const ready = await readyToMake(app, form, answer, read.data, owner)
  const problems = [
    ...(outline.length ? [] : faults.map(({ message }) => ({ question: '', message }))),
    ...read.problems,
    ...ready.problems,
  ]
  // What is wrong with one of them keeps the others from being made.
  await makeClaimed(app, problems.length ? [] : ready.singles, async (work, keep) => {
    const { db } = work
    const [now] = await db.select().from(intakeAnswer).where(eq(intakeAnswer.id, answer.id)).for('update')
    // Another worker may have made it meanwhile, or somebody here put it aside.
    if (now?.state !== 'handed in' || now.version !== answer.version) return
    await writeAnswers(work, answer, asked, owner)
    const about = await toRecord(work, form, answer, read.data, owner)
    const ids = await keep({ recordId: about.recordId })
    await speakTo(db, answer, ids, ready.roles)
    const { to, where } = moving(intakeAnswer.state, ANSWER, problems.length ? 'ask for a hand' : 'make')
    await db
      .update(intakeAnswer)
      .set({
        ...about,
        state: to,
        problems,
        agreementIds: [...ids],
        changedAt: work.now(),
        heldUntil: null,
      })
      .where(and(eq(intakeAnswer.id, answer.id), where))
    if (ids.length && form.content.afterwards !== 'wait' && (await goesUnseen(db, { ...answer, ...about })))
      await work.enqueue('send-made', { agreementIds: [...ids], by: owner.id })
  })
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
    const id = await insertRecord(work, owner, into.kind, own, null)
    await fileAlong(work, { content }, answer, id)
    await work.enqueue('follow-records', {})
    return { recordId: id, outcome: 'new', differences: [] }
  }
  // Files, too, come to a record that is known only once somebody here has looked at them.
  const files = await filesNamed(db, { content }, answer)
  return step!.kind === 'changed' || files.length
    ? {
        recordId: step!.id,
        outcome: 'changed',
        differences: step!.kind === 'changed' ? [...step!.differences] : [],
      }
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

/** Files of an answer that its questions still name. */
async function filesNamed(db: Db, { content }: Pick<FormRow, 'content'>, answer: AnswerRow) {
  const named = new Set(
    questionsOf(content)
      .filter(({ kind }) => kind === 'file')
      .flatMap(({ id }) =>
        ((answer.answers[id] ?? []) as readonly AnsweredFile[]).map((each) => `${id} ${each.sha256}`),
      ),
  )
  const files = await db.select().from(intakeFile).where(eq(intakeFile.answerId, answer.id))
  return files.filter((each) => named.has(`${each.question} ${each.sha256}`))
}

/** Files that came along belong to the record too: to one that the answer made, or that somebody here has said it is for. */
export async function fileAlong(
  { db, now }: Ground,
  { content }: Pick<FormRow, 'content'>,
  answer: AnswerRow,
  recordId: string,
): Promise<void> {
  const kept = await filesNamed(db, { content }, answer)
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
        at: now(),
      })),
    )
    .onConflictDoNothing()
}

/** What the agreements of an answer would be made of, and what is wrong with them; the role of whoever answered in each. */
async function readyToMake(
  app: App,
  form: FormRow,
  answer: AnswerRow,
  data: RecordData,
  owner: Person,
): Promise<{
  readonly singles: readonly Single[]
  readonly problems: readonly AnswerProblem[]
  readonly roles: ReadonlySet<string>
}> {
  const problems: AnswerProblem[] = []
  const singles: Single[] = []
  const roles = new Set<string>()
  for (const [place, target] of targetsOf(form).entries()) {
    const checker = await givenChecker(app, owner, target, 'answer')
    const { bundle, made, rules } = checker
    const names = new Set(checker.fields.map(({ name }) => name))
    const own = Object.fromEntries(Object.entries(data).filter(([name]) => names.has(name)))
    const checked = one(await checker.check([{ values: asGiven(own), at: '' }]))
    problems.push(...checked.problems.map((each) => problemAt(each, names)))
    const live = answer.seen ? null : await liveBefore(app.db, checker, checked.data)
    if (live) problems.push({ question: '', message: live })
    for (const { content } of bundle.parts) {
      const role = respondentRole(form.content, content.roles)
      if (role) roles.add(role)
    }
    singles.push({
      bundle,
      made,
      series: bundle.editions[0]!.seriesId,
      origin: { kind: 'answer', form: form.id, answer: answer.id },
      occasion: `answer ${answer.id} ${place}`,
      from: { data: checked.data, language: null, copies: [], extra: [] },
      rules,
      by: owner,
      told: { origin: 'answer', named: form.content.title },
      recordId: answer.recordId,
    })
  }
  return { singles, problems, roles }
}

/** Whoever answered in a language signs in it, and is written to in it; nobody else is, whoever else has that address. */
async function speakTo(
  db: Db,
  { email, language }: AnswerRow,
  agreementIds: readonly string[],
  roles: ReadonlySet<string>,
): Promise<void> {
  if (email === '' || agreementIds.length === 0 || roles.size === 0) return
  await db
    .update(party)
    .set({ language })
    .where(
      and(
        inArray(party.agreementId, [...agreementIds]),
        inArray(party.role, [...roles]),
        sql`lower(${party.email}) = ${email.toLowerCase()}`,
      ),
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
