import type { ReactNode } from 'react'
import { saidIn, textKey } from '#core/intake/form.ts'
import { useWords } from '#web/areas/signing/words.tsx'
import { Button } from '#web/parts/button.tsx'
import { Later } from './later.tsx'
import { LookThrough } from './look-through.tsx'
import { QuestionPart } from './question.tsx'
import { type OpenForm, useAnswering } from './use-answering.ts'
import { usePages } from './use-pages.ts'

/** Goes through the pages of a form, one at a time, then shows all of it before it is handed in. */
export function AnswerPage({
  token,
  form,
  menu,
  onHandedIn,
}: {
  readonly token: string
  readonly form: OpenForm
  readonly menu: ReactNode
  readonly onHandedIn: (token: string) => void
}) {
  const { say, language, ...speaker } = useWords()
  const { content, outline } = form
  const answering = useAnswering(token, form, language)
  const { answers, state, refusal } = answering
  const way = usePages(form, answering, { say, language }, onHandedIn)
  const { asked, read, pages, place, page, last, goTo, said, busy } = way
  return (
    <main className="mx-auto max-w-2xl px-5 pt-3 pb-28">
      <div className="flex min-h-11 items-center gap-3 text-sm text-soft">
        <span className="min-w-0 flex-1 truncate">{form.from}</span>
        {menu}
      </div>
      <h1 className="mt-4 text-2xl wrap-anywhere">
        {saidIn(content, language, textKey.title, content.title)}
      </h1>
      {place === 0 && content.introduction && (
        <p className="mt-3 text-[1.0625rem] leading-relaxed whitespace-pre-wrap">
          {saidIn(content, language, textKey.introduction, content.introduction)}
        </p>
      )}
      {place === 0 && form.answer?.known && (
        <p className="mt-3 border-l-2 border-hair pl-3">{say('form.known')}</p>
      )}
      {(said ?? refusal) && (
        <p role="alert" className="mt-4 border-l-2 border-brick pl-3">
          {said ?? refusal}
        </p>
      )}
      {page && (
        <form
          key={page.id}
          noValidate
          aria-label={saidIn(content, language, textKey.page(page.id), page.title) || content.title}
          onSubmit={(event) => {
            event.preventDefault()
            way.next()
          }}
        >
          {page.title && (
            <h2 className="mt-8 border-b border-hair pb-1 text-lg">
              {saidIn(content, language, textKey.page(page.id), page.title)}
            </h2>
          )}
          {page.questions.map((question) => (
            <QuestionPart
              key={question.id}
              question={question}
              form={content}
              field={outline.find(({ name }) => name === question.id)}
              answering={answering}
              answer={answers[question.id]}
              problems={way.problemsOf(question.id)}
              onLeave={() => way.leave(question.id)}
              onAnswer={(answer) => {
                way.answered(question.id)
                answering.keeper.put({ [question.id]: answer })
              }}
            />
          ))}
          <Foot
            back={place > 0 ? () => goTo(place - 1) : null}
            part={say('form.part', { page: place + 1, total: pages.length })}
          >
            <Button kind="main" type="submit" className="min-h-11 px-5">
              {say('form.next')}
            </Button>
          </Foot>
        </form>
      )}
      {last && (
        <>
          <LookThrough
            asked={asked}
            answers={answers}
            pages={pages}
            problems={read.problems}
            onChange={(to) => goTo(to)}
          />
          <Foot back={pages.length ? () => goTo(pages.length - 1) : null} part="">
            <Button kind="main" className="min-h-11 px-5" disabled={busy} onClick={() => void way.handIn()}>
              {say(busy ? 'form.handingIn' : 'form.handIn')}
            </Button>
          </Foot>
        </>
      )}
      <Later state={state} begun={answering.begun} speaker={{ say, language, ...speaker }} />
    </main>
  )
}

function Foot({
  back,
  part,
  children,
}: {
  readonly back: (() => void) | null
  readonly part: string
  readonly children: ReactNode
}) {
  const { say } = useWords()
  return (
    <div className="mt-8 flex items-center gap-4 border-t border-hair pt-4">
      {back && (
        <button type="button" className="min-h-11 text-petrol underline" onClick={back}>
          {say('form.back')}
        </button>
      )}
      <span className="ml-auto text-sm text-soft tabular-nums">{part}</span>
      {children}
    </div>
  )
}
