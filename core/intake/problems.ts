import { coerce } from '../outline/coerce.ts'
import type { Outline } from '../outline/field.ts'
import { conditionProblems } from './answers.ts'
import { areAlike, type IntakeForm, questionsOf } from './form.ts'

/** What is wrong with a form; `question` null: with all of it. */
export interface FormProblem {
  readonly question: string | null
  readonly message: string
}

/** What would keep answers from becoming agreements, or would get lost, whatever is answered. */
export function formProblems(form: IntakeForm, outline: Outline): readonly FormProblem[] {
  const fields = new Map(outline.map((field) => [field.name, field]))
  const questions = questionsOf(form)
  const asked = new Map(
    questions.flatMap((question) => [question.id, ...question.also].map((name) => [name, question] as const)),
  )
  const problems: FormProblem[] = []
  const say = (question: string | null, message: string) => problems.push({ question, message })
  for (const { id, kind, label, also, default: otherwise } of questions) {
    const field = fields.get(id)
    if (kind === 'file') continue
    if (!field)
      say(
        id,
        `None of the templates has a field “${id}” any more: what is answered to “${label}” goes nowhere.`,
      )
    else if (also.some((name) => !fields.has(name) || !areAlike(fields.get(name)!.type, field.type)))
      say(id, 'It fills a field of another type, or one that is there no more, with the same answer.')
    else if (otherwise.trim() && field.type !== 'list') {
      const read = coerce(field, otherwise, null)
      if (!read.ok) say(id, `What stands there before: ${read.problem}`)
    }
  }
  for (const [id, message] of conditionProblems(form, outline)) say(id, message)
  const left = new Map(form.leftOut.map(({ field, value }) => [field, value.trim()]))
  for (const { name, label, required, default: otherwise, computed, type } of outline) {
    if (computed !== undefined) continue
    const value = left.get(name)
    if (value && !asked.has(name)) {
      const read = coerce(fields.get(name)!, value, null)
      if (!read.ok) say(null, `“${label}”, which is not asked: ${read.problem}`)
      continue
    }
    if (!required || otherwise !== undefined) continue
    const question = asked.get(name)
    if (!question)
      say(null, `“${label}” is needed and is not asked for. Ask for it, or give the value that all get.`)
    else if (!question.required && !question.default.trim() && type !== 'list')
      say(question.id, `“${label}” is needed, and may be left empty here.`)
  }
  if (form.email !== null && !asked.has(form.email))
    say(null, 'The question for the email address of whoever answers is not asked.')
  if (form.email === null && form.afterwards !== 'wait')
    say(null, 'Say which question asks for the email address: what is to be signed goes there.')
  if (form.record) {
    const { fields: filled, key } = form.record
    if (!(key in filled)) say(null, 'Say which question fills the field that records are known again by.')
    for (const question of Object.values(filled))
      if (!asked.has(question) && !left.has(question))
        say(null, `The record is to be filled from “${question}”, which is not asked.`)
  }
  return problems
}
