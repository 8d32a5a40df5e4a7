import { useState } from 'react'
import { type AnswerProblem, readAnswers } from '#core/intake/answers.ts'
import type { Speaker } from '#core/languages/speak.ts'
import { call, problemText } from '#web/api/client.ts'
import { ProblemError } from '#web/api/problem.ts'
import { queries } from '#web/api/queries.ts'
import type { OpenForm, useAnswering } from './use-answering.ts'

/**
 * The way through the pages of a form: the one that is open, what is told to be wrong, and handing in. `onHandedIn` is given the
 * token of the response.
 */
export function usePages(
  { content, outline }: OpenForm,
  answering: ReturnType<typeof useAnswering>,
  { say, language }: Pick<Speaker, 'say' | 'language'>,
  onHandedIn: (token: string) => void,
) {
  const { answers } = answering
  const [at, setAt] = useState(0)
  /** Questions that were left, whose problems are told; before that nobody is corrected while they write. */
  const [told, setTold] = useState<ReadonlySet<string>>(new Set())
  const [refused, setRefused] = useState<readonly AnswerProblem[]>([])
  const [said, setSaid] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const asked = { form: content, outline }
  const read = readAnswers(asked, answers, { say, language })
  const now = new Set(read.asked.map(({ id }) => id))
  const pages = content.pages
    .map((page) => ({ ...page, questions: page.questions.filter(({ id }) => now.has(id)) }))
    .filter(({ questions }) => questions.length > 0)
  const place = Math.min(at, pages.length)
  const page = pages[place]
  const problemsOf = (id: string) =>
    told.has(id)
      ? [
          ...read.problems.filter(({ question }) => question === id),
          ...refused.filter(({ question }) => question === id),
        ]
      : []
  const goTo = (to: number) => {
    setAt(to)
    window.scrollTo({ top: 0 })
  }
  const next = () => {
    const ids = new Set(page?.questions.map(({ id }) => id))
    setTold(new Set([...told, ...ids]))
    if (read.problems.some(({ question }) => ids.has(question)))
      return setTimeout(() => document.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus())
    goTo(place + 1)
  }
  const toProblem = (problems: readonly AnswerProblem[]) => {
    setTold(new Set(read.asked.map(({ id }) => id)))
    const first = pages.findIndex(({ questions }) =>
      questions.some(({ id }) => problems.some(({ question }) => question === id)),
    )
    if (first >= 0) goTo(first)
    setTimeout(() => document.querySelector<HTMLElement>('[aria-invalid="true"]')?.focus())
  }
  const handIn = async () => {
    if (read.problems.length) {
      setSaid(say('form.wrongs', { count: read.problems.length }))
      return toProblem(read.problems)
    }
    setBusy(true)
    setSaid(null)
    try {
      const own = await answering.begin()
      await call('handInAnswers', { params: { token: own }, body: { answers, language } })
      await queries.invalidateQueries({ queryKey: ['form'] })
      onHandedIn(own)
    } catch (error) {
      setSaid(problemText(error))
      const found = error instanceof ProblemError ? problemsIn(error) : []
      setRefused(found)
      if (found.length) toProblem(found)
    } finally {
      setBusy(false)
    }
  }
  return {
    asked,
    read,
    pages,
    place,
    page,
    last: place === pages.length,
    problemsOf,
    goTo,
    next,
    handIn,
    said,
    busy,
    /** The question was left: from now on it is told what is wrong with it. */
    leave: (question: string) => setTold((before) => new Set([...before, question])),
    /** It is answered anew: what the server said of it is of before. */
    answered: (question: string) =>
      setRefused((before) => before.filter((each) => each.question !== question)),
  }
}

/** Where answers are wrong, as the server tells it. */
const problemsIn = (error: ProblemError): readonly AnswerProblem[] =>
  (error.problem.faults ?? []).flatMap(({ pointer, detail }) => {
    const [, question, line, item] = /^\/answers\/([^/]+)(?:\/(\d+)\/(.+))?$/.exec(pointer) ?? []
    return question
      ? [{ question, message: detail, ...(line === undefined ? {} : { line: Number(line), item: item! }) }]
      : []
  })
