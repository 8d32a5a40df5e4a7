import type { Outline } from '../outline/field.ts'
import { questionFor } from './made.ts'
import { filledFields, type IntakeForm, type Question, type QuestionPage, questionsOf } from './form.ts'

// What people do to a form, each as a new form. What does not apply leaves it as it is.

const withPages = (form: IntakeForm, pages: readonly QuestionPage[]): IntakeForm => ({ ...form, pages })

/** The form with one question changed. */
export const withQuestion = (form: IntakeForm, id: string, change: Partial<Question>): IntakeForm =>
  withPages(
    form,
    form.pages.map((page) => ({
      ...page,
      questions: page.questions.map((each) => (each.id === id ? { ...each, ...change } : each)),
    })),
  )

/** The form with one page changed. */
export const withPage = (form: IntakeForm, id: string, change: Partial<QuestionPage>): IntakeForm =>
  withPages(
    form,
    form.pages.map((page) => (page.id === id ? { ...page, ...change } : page)),
  )

/** Moves a question one place up or down; at the edge of its page into the next one. */
export function moveQuestion(form: IntakeForm, id: string, by: 1 | -1): IntakeForm {
  const at = form.pages.findIndex(({ questions }) => questions.some((each) => each.id === id))
  if (at < 0) return form
  const page = form.pages[at]!
  const place = page.questions.findIndex((each) => each.id === id)
  const question = page.questions[place]!
  const rest = page.questions.toSpliced(place, 1)
  const within = place + by
  if (within >= 0 && within <= rest.length)
    return withPage(form, page.id, { questions: rest.toSpliced(within, 0, question) })
  const next = form.pages[at + by]
  if (!next) return form
  const without = withPage(form, page.id, { questions: rest })
  return withPage(without, next.id, {
    questions: by > 0 ? [question, ...next.questions] : [...next.questions, question],
  })
}

/** Begins a new page with a question: what stands behind it on its page goes along. */
export function splitPage(form: IntakeForm, id: string): IntakeForm {
  const at = form.pages.findIndex(({ questions }) => questions.some((each) => each.id === id))
  const page = form.pages[at]
  const place = page?.questions.findIndex((each) => each.id === id) ?? 0
  if (!page || place === 0) return form
  return withPages(
    form,
    form.pages.toSpliced(
      at,
      1,
      { ...page, questions: page.questions.slice(0, place) },
      { id: freePage(form), title: '', questions: page.questions.slice(place) },
    ),
  )
}

/** Puts a page's questions to the page before it. */
export function joinPage(form: IntakeForm, id: string): IntakeForm {
  const at = form.pages.findIndex((page) => page.id === id)
  const [before, page] = [form.pages[at - 1], form.pages[at]]
  if (!before || !page) return form
  return withPages(
    form,
    form.pages.toSpliced(at - 1, 2, { ...before, questions: [...before.questions, ...page.questions] }),
  )
}

function freePage({ pages }: IntakeForm): string {
  const taken = new Set(pages.map(({ id }) => id))
  let number = pages.length + 1
  while (taken.has(`p${number}`)) number++
  return `p${number}`
}

/** Asks for a value no more; all answers get `value` for it, or none. A file that was asked for is gone. */
export function leaveOut(form: IntakeForm, id: string, value = ''): IntakeForm {
  const question = questionsOf(form).find((each) => each.id === id)
  if (!question) return form
  const without = withPages(
    form,
    form.pages.map((page) => ({ ...page, questions: page.questions.filter((each) => each.id !== id) })),
  )
  return question.kind === 'file'
    ? without
    : { ...without, leftOut: [...form.leftOut.filter(({ field }) => field !== id), { field: id, value }] }
}

/** Asks for a value again, at the end of the last page. */
export function askAgain(form: IntakeForm, outline: Outline, id: string): IntakeForm {
  const field = outline.find(({ name }) => name === id)
  if (!field || filledFields(form).has(id)) return form
  return {
    ...atEnd(form, questionFor(field)),
    leftOut: form.leftOut.filter((each) => each.field !== id),
  }
}

/** Has a question fill another field too, which is asked for by itself no more; or no longer. */
export function alsoFills(form: IntakeForm, id: string, field: string, on: boolean): IntakeForm {
  const question = questionsOf(form).find((each) => each.id === id)
  if (!question || question.also.includes(field) === on) return form
  if (!on) return withQuestion(form, id, { also: question.also.filter((each) => each !== field) })
  // Whatever asked for it or filled it before does so no more.
  const free = withPages(
    form,
    form.pages.map((page) => ({
      ...page,
      questions: page.questions.map((each) => ({
        ...each,
        also: each.also.filter((name) => name !== field),
      })),
    })),
  )
  const left = leaveOut(free, field)
  const without = { ...left, leftOut: left.leftOut.filter((each) => each.field !== field) }
  return withQuestion(without, id, { also: [...question.also, field] })
}

/** Asks for files, at the end of the last page. */
export function askForFile(form: IntakeForm): IntakeForm {
  const taken = new Set(questionsOf(form).map(({ id }) => id))
  let number = 1
  while (taken.has(`file_${number}`)) number++
  return atEnd(form, {
    id: `file_${number}`,
    kind: 'file',
    label: 'Files',
    help: '',
    example: '',
    required: false,
    default: '',
    also: [],
    when: '',
  })
}

function atEnd(form: IntakeForm, question: Question): IntakeForm {
  const last = form.pages.at(-1)!
  return withPage(form, last.id, { questions: [...last.questions, question] })
}

/** What neither is asked nor left out: fields that an edition since has brought. */
export function unasked(form: IntakeForm, outline: Outline): Outline {
  const known = new Set([...filledFields(form), ...form.leftOut.map(({ field }) => field)])
  return outline.filter(({ name, computed }) => computed === undefined && !known.has(name))
}
