import { useState } from 'react'
import type { Language } from '#core/languages/language.ts'
import { saidIn, textKey } from '#core/intake/form.ts'
import { ProblemError, useAnswer } from '#web/api/client.ts'
import { Leaf } from '#web/areas/signing/closed.tsx'
import { LanguageChoice } from '#web/areas/signing/language-menu.tsx'
import { browserLanguage, Speaking, useWords } from '#web/areas/signing/words.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Afterwards } from './afterwards.tsx'
import { AnswerPage } from './answer-page.tsx'
import type { PublicForm } from './use-answering.ts'

/** What whoever has the address of a form sees. Works in any browser; needs nothing but the address. */
export function FormPage({ token }: { readonly token: string }) {
  const [now, setNow] = useState(token)
  const form = useAnswer('form', { params: { token: now } })
  const [chosen, setChosen] = useState<Language | null>(null)
  if (form.isPending) return <Loading />
  if (form.isError)
    return (
      <Speaking language={browserLanguage()}>
        {form.error instanceof ProblemError && form.error.problem.status === 404 ? (
          <Unknown />
        ) : (
          <Failed error={form.error} retry={() => void form.refetch()} />
        )}
      </Speaking>
    )
  // An open form speaks the browser's language; one that was begun or sent, the one it was begun or sent in.
  const language = chosen ?? (form.data.answer || form.data.after ? form.data.language : browserLanguage())
  return (
    <Speaking language={language}>
      <Standing token={now} form={form.data} onLanguage={setChosen} onToken={setNow} />
    </Speaking>
  )
}

function Unknown() {
  const { say } = useWords()
  return <Leaf title={say('closed.unknown.title')}>{say('form.unknown')}</Leaf>
}

function Standing({
  token,
  form,
  onLanguage,
  onToken,
}: {
  readonly token: string
  readonly form: PublicForm
  readonly onLanguage: (language: Language) => void
  readonly onToken: (token: string) => void
}) {
  const { say, language } = useWords()
  const { standing, from, closesDay, content, after } = form
  const title = content ? saidIn(content, language, textKey.title, content.title) : form.title
  const menu = <LanguageChoice onChoose={onLanguage} />
  if (standing === 'done' && after)
    return <Afterwards token={token} after={after} title={title} content={content} menu={menu} />
  if (standing === 'open' && content)
    return (
      <AnswerPage key={token} token={token} form={{ ...form, content }} menu={menu} onHandedIn={onToken} />
    )
  return (
    <Leaf title={say('form.closed')} aside={menu}>
      <p>
        {standing === 'over'
          ? say('form.over', { day: closesDay ?? '', from })
          : say(standing === 'full' ? 'form.full' : 'form.ended', { from })}
      </p>
      <p className="mt-6 border-t border-hair pt-3 text-sm text-soft">{title}</p>
    </Leaf>
  )
}
