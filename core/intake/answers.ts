import { FIELD_KINDS, isNumeric } from '../outline/field-kinds.ts'
import { compileExpression, type Expression } from '../expression/compile.ts'
import { checkExpression } from '../expression/check.ts'
import { withBudget } from '../expression/values/budget.ts'
import type { Language } from '../languages/language.ts'
import type { Say } from '../languages/speak.ts'
import type { Json } from '../mapping/nested.ts'
import { describeReadings, readTyped } from '../text/typed-number.ts'
import { coerce } from '../outline/coerce.ts'
import {
  type Field,
  type FieldValue,
  isItems,
  nameTypes,
  type Outline,
  type PlainValue,
  type RecordData,
} from '../outline/field.ts'
import { completeRecord, prepareOutline, type ReadyOutline } from '../outline/record.ts'
import { perObject } from '../per-object.ts'
import { areAlike, type IntakeForm, type Question, questionsOf, saidIn, textKey } from './form.ts'

/** A file that was handed in. */
export interface AnsweredFile {
  readonly sha256: string
  readonly name: string
  readonly size: number
}

/** What was answered to one question, as it was typed; of a list its lines, of a file the files. */
export type Answer =
  string | boolean | readonly Readonly<Record<string, string | boolean>>[] | readonly AnsweredFile[]
/** What was answered, by question. */
export type Answers = Readonly<Record<string, Answer>>

/** A form together with the fields that its questions fill. */
export interface AskedForm {
  readonly form: IntakeForm
  readonly outline: Outline
}

/** What is wrong with one answer, to be said beside it. */
export interface AnswerProblem {
  readonly question: string
  /** Of a line of a list: which, from 0, and which of its fields. */
  readonly line?: number
  readonly item?: string
  readonly message: string
}

/** Answers as they were read. */
export interface ReadAnswers {
  /** The questions that are asked, in their order; what is answered to others does not count. */
  readonly asked: readonly Question[]
  readonly problems: readonly AnswerProblem[]
  /** Values by field as they are read: what cannot be read is absent. */
  readonly data: RecordData
}

/** Steps that all conditions of a form may take together, each time that it is read. */
const STEPS = 200_000
/** The most lines of a list. */
export const MOST_LINES = 200
/** The most characters of one answer. */
export const LONGEST_ANSWER = 20_000

const prepared = perObject((outline: Outline): ReadyOutline | null => {
  const found = prepareOutline(outline)
  return found.ok ? found.ready : null
})

const compiledOf =
  (text: (question: Question) => string) =>
  (form: IntakeForm): ReadonlyMap<string, Expression> =>
    new Map(
      questionsOf(form).flatMap((question) => {
        const written = text(question)
        const compiled = written.trim() ? compileExpression(written) : null
        return compiled?.ok ? [[question.id, compiled.expression] as const] : []
      }),
    )
const conditions = perObject(compiledOf(({ when }) => when))
const checks = perObject(compiledOf(({ check = '' }) => check))

/** What is wrong with the conditions and checks of a form, by question; a sound form has none. */
export function conditionProblems(form: IntakeForm, outline: Outline): ReadonlyMap<string, string> {
  const names = nameTypes(outline)
  const questions = questionsOf(form)
  return new Map(
    questions.flatMap(({ id, when, check = '' }, place) => {
      const message =
        (when.trim() && problemOf(when, questions.slice(place), 'a condition')) ||
        (check.trim() && problemOf(check, questions.slice(place + 1), 'a check'))
      return message ? [[id, message] as const] : []
    }),
  )

  function problemOf(text: string, after: readonly Question[], what: string): string | undefined {
    const compiled = compileExpression(text)
    const later = after.map((each) => each.id)
    const early = compiled.ok ? compiled.expression.reads.find((name) => later.includes(name)) : undefined
    return !compiled.ok
      ? compiled.problem.message
      : early !== undefined
        ? `“${early}” is asked only after it: ${what} looks at what is answered before.`
        : checkExpression(compiled.expression.syntax, names, 'boolean')[0]?.message
  }
}

/**
 * Reads what was answered. A question is asked where its condition is true of the answers to those that are asked before it:
 * what was answered to one that is not asked any more neither counts nor is lost. Texts of problems come from `say`.
 */
export function readAnswers(
  { form, outline }: AskedForm,
  answers: Answers,
  { say, language }: { readonly say: Say; readonly language: Language },
): ReadAnswers {
  const fields = new Map(outline.map((field) => [field.name, field]))
  const ready = prepared(outline)
  const data: Record<string, FieldValue> = {}
  for (const { field, value } of form.leftOut) {
    const of = fields.get(field)
    const read = of && value.trim() ? coerce(of, value, null) : null
    if (read?.ok && read.value !== null) data[field] = read.value
  }
  const asked: Question[] = []
  const problems: AnswerProblem[] = []
  withBudget(STEPS, () => {
    for (const question of questionsOf(form)) {
      const condition = conditions(form).get(question.id)
      if (condition && ready && condition.evaluate(completeRecord(ready, { ...data }).context) !== true)
        continue
      asked.push(question)
      const field = fields.get(question.id)
      const answer = answers[question.id]
      if (question.kind === 'file') {
        if (question.required && !(Array.isArray(answer) && answer.length))
          problems.push({
            question: question.id,
            message: say('form.missing', { label: labelIn(form, question, language) }),
          })
      } else if (field) {
        const label = labelIn(form, question, language)
        const read = readOne({ ...question, label }, field, answer, { say, language })
        problems.push(...read.problems)
        if (read.value !== null)
          for (const name of [question.id, ...question.also])
            if (fields.has(name) && areAlike(fields.get(name)!.type, field.type)) data[name] = read.value
        const check = read.value === null ? undefined : checks(form).get(question.id)
        // What cannot be told yet is no fault of this answer.
        if (check && ready && check.evaluate(completeRecord(ready, { ...data }).context) === false)
          problems.push({ question: question.id, message: saysOf(form, question, { say, language }) })
      }
    }
  })
  return { asked, problems, data }
}

/** What is said of an answer that does not fit. */
const saysOf = (form: IntakeForm, question: Question, { say, language }: Reader): string =>
  saidIn(form, language, textKey.says(question.id), question.says?.trim() ?? '') ||
  say('form.unfit', { label: labelIn(form, question, language) })

const labelIn = (form: IntakeForm, { id, label }: Question, language: Language): string =>
  saidIn(form, language, textKey.label(id), label)

interface ReadOne {
  readonly value: FieldValue | null
  readonly problems: readonly AnswerProblem[]
}
/** Who is spoken to, and in which language numbers and dates are read. */
export type Reader = { readonly say: Say; readonly language: Language }

function readOne(question: Question, field: Field, answer: Answer | undefined, reader: Reader): ReadOne {
  const missing: ReadOne = {
    value: null,
    problems: question.required
      ? [{ question: question.id, message: reader.say('form.missing', { label: question.label }) }]
      : [],
  }
  if (field.type === 'list')
    return Array.isArray(answer)
      ? readLines(question, field, answer as readonly Line[], reader, missing)
      : missing
  if (answer === undefined || typeof answer === 'object') return missing
  const read = readPlain(field, answer, reader)
  if (read.problem !== null)
    return { value: null, problems: [{ question: question.id, message: read.problem }] }
  return read.value === null ? missing : { value: read.value, problems: [] }
}

type Line = Readonly<Record<string, string | boolean>>

function readLines(
  question: Question,
  list: Field,
  lines: readonly Line[],
  reader: Reader,
  missing: ReadOne,
): ReadOne {
  const given = (list.items ?? []).filter(({ computed }) => computed === undefined)
  const problems: AnswerProblem[] = []
  const items: Record<string, PlainValue>[] = []
  if (lines.length > MOST_LINES)
    return {
      value: null,
      problems: [{ question: question.id, message: reader.say('form.lines', { most: MOST_LINES }) }],
    }
  for (const [line, answered] of lines.entries()) {
    const item: Record<string, PlainValue> = {}
    // A line that nothing stands in is none.
    if (given.every(({ name }) => String(answered[name] ?? '').trim() === '')) continue
    for (const field of given) {
      const read = readPlain(field, answered[field.name] ?? '', reader)
      const message =
        read.problem ??
        (read.value === null && field.required && field.default === undefined
          ? reader.say('form.missing', { label: field.label })
          : null)
      if (message !== null) problems.push({ question: question.id, line, item: field.name, message })
      if (read.value !== null) item[field.name] = read.value
    }
    items.push(item)
  }
  if (items.length === 0 && problems.length === 0) return missing
  return { value: problems.length ? null : items, problems }
}

/** One answer as its field reads it, or what is wrong with it in the reader’s words; null: nothing is answered. */
export function readPlain(
  field: Field,
  answer: string | boolean,
  { say, language }: Reader,
): { readonly value: PlainValue | null; readonly problem: string | null } {
  if (typeof answer === 'string' && answer.length > LONGEST_ANSWER)
    return { value: null, problem: say('form.long', { most: LONGEST_ANSWER }) }
  const typed =
    typeof answer === 'string' && isNumeric(field.type) && answer.trim() !== ''
      ? readTyped(answer.trim().replace(field.type === 'percent' ? /%$/ : /\p{Sc}/gu, ''), language)
      : null
  if (typed && !typed.ok && typed.readings) {
    const [one, other] = describeReadings(typed.readings, language)
    return { value: null, problem: say('value.twoReadings', { text: String(answer), one, other }) }
  }
  // Texts come with typographic quotes, line breaks and all; only what cannot be kept or seen is refused elsewhere.
  const read = coerce(field, typed?.ok ? typed.value : answer, null)
  if (read.ok) return { value: read.value, problem: null }
  return {
    value: null,
    problem: say(FIELD_KINDS[field.type].wrong),
  }
}

/** What was read as nested values are given: items as they are, everything else under its whole name. */
export const asGiven = (data: RecordData): { readonly [name: string]: Json } =>
  Object.fromEntries(
    Object.entries(data).map(([name, value]): [string, Json] => [
      name,
      isItems(value) ? value.map((item) => ({ ...item })) : value,
    ]),
  )

/** A value as it would be answered, to stand in a form before anybody answers. */
export const asAnswer = (value: FieldValue): Answer =>
  isItems(value) ? value.map((item) => ({ ...item })) : value
