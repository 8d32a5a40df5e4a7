import { useEffect, useRef, useState } from 'react'
import { useStore } from 'zustand'
import type { Api } from '#contract/api.ts'
import type { Answer as Answered } from '#contract/route.ts'
import type { Answer, Answers } from '#core/intake/answers.ts'
import { type IntakeForm, questionsOf } from '#core/intake/form.ts'
import type { Language } from '#core/languages/language.ts'
import { call } from '#web/api/client.ts'
import { ProblemError } from '#web/api/problem.ts'
import { FillStore } from '#web/areas/signing/fill-store.ts'

export type PublicForm = Answered<Api['form']>
/** A form that can be answered. */
export type OpenForm = PublicForm & { readonly content: IntakeForm }

/** What stands in the form at first: what was kept, else what stands there before anybody answers. */
const firstAnswers = ({ content, answer }: OpenForm): Answers => ({
  ...(answer
    ? {}
    : Object.fromEntries(
        questionsOf(content).flatMap(({ id, kind, default: otherwise }): [string, Answer][] =>
          kind === 'value' && otherwise.trim() ? [[id, otherwise]] : [],
        ),
      )),
  ...answer?.answers,
})

/** Milliseconds that writing is waited for before it is kept. */
const SETTLES = 700

/**
 * Keeps what is answered as it is written. By an open link nothing is begun until something is answered; from then on the
 * answer has an address of its own, which the window takes, so that reload and coming back lead to it.
 */
export function useAnswering(token: string, form: OpenForm, language: Language) {
  const [refusal, setRefusal] = useState<string | null>(null)
  /** The answer's own token, once it is begun. */
  const [begun, setBegun] = useState(form.answer !== null)
  const spoken = useRef(language)
  useEffect(() => {
    spoken.current = language
  }, [language])
  const [all] = useState(() => {
    let own = form.answer ? Promise.resolve(token) : null
    const begin = () =>
      (own ??= call('beginAnswer', { params: { token }, body: { language: spoken.current } })
        .then((answer) => {
          window.history.replaceState(null, '', `/form/${answer.token}`)
          setBegun(true)
          return answer.token
        })
        .catch((error: unknown) => {
          own = null
          throw error
        }))
    const keeper = new FillStore<Answer>(firstAnswers(form), {
      send: async (_changes, whole) => {
        await new Promise((resolve) => setTimeout(resolve, SETTLES))
        try {
          await call('keepAnswers', {
            params: { token: await begin() },
            body: { answers: whole, language: spoken.current },
            goesOn: true,
          })
          return { kept: true }
        } catch (error) {
          const lost = !(error instanceof ProblemError) || error.problem.status === 0
          return { kept: false, problem: lost ? null : error.problem.detail }
        }
      },
      refused: setRefusal,
      wait: (milliseconds, act) => {
        const timer = setTimeout(act, milliseconds)
        return () => clearTimeout(timer)
      },
    })
    return { keeper, begin }
  })
  const filling = useStore(all.keeper.shown)
  useEffect(() => {
    const back = () => all.keeper.retry()
    window.addEventListener('online', back)
    return () => window.removeEventListener('online', back)
  }, [all])
  return {
    ...all,
    answers: filling.values,
    state: filling.state,
    refusal,
    begun,
  }
}
export type Answering = ReturnType<typeof useAnswering>
