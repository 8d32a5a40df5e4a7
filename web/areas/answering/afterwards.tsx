import { type ReactNode, useState } from 'react'
import { type IntakeForm, saidIn, textKey } from '#core/intake/form.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { Leaf } from '#web/areas/signing/closed.tsx'
import { useWords } from '#web/areas/signing/words.tsx'
import { Button } from '#web/parts/button.tsx'
import type { PublicForm } from './use-answering.ts'

/** What becomes of an answer, and what can be signed right away. */
export function Afterwards({
  token,
  after,
  title,
  content,
  menu,
}: {
  readonly token: string
  readonly after: NonNullable<PublicForm['after']>
  readonly title: string
  readonly content: IntakeForm | null
  readonly menu: ReactNode
}) {
  const { say, language } = useWords()
  // What is being made is asked for again until it is there.
  useAnswer('form', { params: { token } }, { every: after.making ? 1500 : 20_000 })
  const { email, making, next, documents } = after
  const thanks = content ? saidIn(content, language, textKey.thanks, content.thanks) : ''
  return (
    <Leaf title={say('form.done')} aside={menu}>
      {thanks && <p className="whitespace-pre-wrap">{thanks}</p>}
      {email && <p className={thanks ? 'mt-3' : ''}>{say('form.doneMail', { email })}</p>}
      {making && (
        <p role="status" className="mt-4 animate-pulse border-l-2 border-hair pl-3">
          {say('form.making')}
        </p>
      )}
      {!making && next === 'sign' && (
        <p className="mt-4 border-l-2 border-ochre pl-3">{say('form.signProof')}</p>
      )}
      <ul>
        {documents.map((document, place) => (
          <li key={place} className="mt-4">
            {document.signed ? (
              <p className="text-moss">{say('form.signed', { title: document.title })}</p>
            ) : document.mine ? (
              <Sign token={token} place={place} title={document.title} />
            ) : null}
          </li>
        ))}
      </ul>
      {!making && email && (next === 'hand' || next === 'goes') && (
        <p className="mt-4">{say(next === 'hand' ? 'form.looked' : 'form.goes', { email })}</p>
      )}
      <p className="mt-6 border-t border-hair pt-3 text-sm text-soft">{title}</p>
    </Leaf>
  )
}

function Sign({
  token,
  place,
  title,
}: {
  readonly token: string
  readonly place: number
  readonly title: string
}) {
  const { say } = useWords()
  const [busy, setBusy] = useState(false)
  const [fault, setFault] = useState<string | null>(null)
  const go = async () => {
    setBusy(true)
    try {
      const { url } = await call('signAnswer', { params: { token }, body: { document: place } })
      // A signature is never given within another site's page.
      if (window.top !== window.self) window.open(url, '_blank', 'noopener')
      else window.location.assign(url)
    } catch (error) {
      setFault(problemText(error))
    }
    setBusy(false)
  }
  return (
    <>
      <p>{say('form.signText', { title })}</p>
      <Button kind="main" className="mt-2 min-h-11 px-5" disabled={busy} onClick={() => void go()}>
        {say('form.sign')}
      </Button>
      {fault && (
        <p role="alert" className="mt-1 text-sm text-brick">
          {fault}
        </p>
      )}
    </>
  )
}
