import type { AnswerProblem, Answers, AskedForm } from '#core/intake/answers.ts'
import { type QuestionPage, saidIn, textKey } from '#core/intake/form.ts'
import { describeAnswers } from '#core/intake/describe.ts'
import { useWords } from '#web/areas/signing/words.tsx'

/** All that was answered, page by page, before it is handed in. */
export function LookThrough({
  asked,
  answers,
  pages,
  problems,
  onChange,
}: {
  readonly asked: AskedForm
  readonly answers: Answers
  readonly pages: readonly QuestionPage[]
  readonly problems: readonly AnswerProblem[]
  readonly onChange: (page: number) => void
}) {
  const { say, language } = useWords()
  const said = new Map(
    describeAnswers(asked, answers, { say, language }).map((each) => [each.question, each]),
  )
  return (
    <section aria-label={say('form.check')}>
      <h2 className="mt-8 text-lg">{say('form.check')}</h2>
      {pages.map((page, place) => (
        <div key={page.id} className="mt-4">
          <div className="flex items-baseline border-b border-hair">
            <h3 className="min-w-0 flex-1 text-base wrap-anywhere">
              {saidIn(asked.form, language, textKey.page(page.id), page.title)}
            </h3>
            <button
              type="button"
              className="min-h-11 text-sm text-petrol underline"
              aria-label={`${say('form.change')} ${page.title || place + 1}`}
              onClick={() => onChange(place)}
            >
              {say('form.change')}
            </button>
          </div>
          <dl className="mt-1">
            {page.questions.map(({ id }) => {
              const each = said.get(id)
              const wrong = problems.find(({ question }) => question === id)
              return (
                <div key={id} className="gap-5 py-1 sm:grid sm:grid-cols-[13rem_minmax(0,1fr)]">
                  <dt className="text-sm text-soft wrap-anywhere sm:text-right">{each?.label}</dt>
                  <dd className="wrap-anywhere whitespace-pre-wrap">
                    {each?.text ?? <span className="text-soft">{say('form.none')}</span>}
                    {wrong && <span className="block text-sm text-brick">{wrong.message}</span>}
                  </dd>
                </div>
              )
            })}
          </dl>
        </div>
      ))}
    </section>
  )
}
