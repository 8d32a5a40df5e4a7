import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { Signing } from '#contract/agreement.ts'
import { call } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Problem } from './decline.tsx'
import { FIELD, Sheet } from './sheet.tsx'
import { useWords } from './words.tsx'

/** Asks the sender about a passage, or the whole. */
export function Ask({
  token,
  from,
  passage,
  onClose,
}: {
  readonly token: string
  readonly from: string
  readonly passage: string
  readonly onClose: () => void
}) {
  const { say } = useWords()
  const notice = useNotice()
  const [text, setText] = useState('')
  const ask = useMutation({
    mutationFn: () => call('askAsParty', { params: { token }, body: { text, passage } }),
    onSuccess: () => {
      notice(say('ask.asked'))
      onClose()
    },
  })
  return (
    <Sheet
      title={say('ask.title', { from })}
      note={passage ? say('ask.about', { passage }) : undefined}
      onClose={onClose}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault()
          ask.mutate()
        }}
      >
        <textarea
          rows={4}
          autoFocus
          maxLength={2000}
          className={FIELD}
          aria-label={say('ask.question')}
          placeholder={say('ask.question')}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Problem error={ask.error} />
        <div className="mt-4 flex flex-wrap justify-end gap-2">
          <Button className="min-h-11" onClick={onClose}>
            {say('page.back')}
          </Button>
          <Button kind="main" type="submit" className="min-h-11" disabled={!text.trim()} busy={ask.isPending}>
            {say('ask.go')}
          </Button>
        </div>
      </form>
    </Sheet>
  )
}

/** What was asked from here, with the answers. */
export function AskedList({ signing }: { readonly signing: Signing }) {
  const { say } = useWords()
  const { questions, from } = signing
  if (questions.length === 0) return null
  return (
    <section aria-label={say('ask.list')} className="mt-6">
      <h2 className="text-lg">{say('ask.list')}</h2>
      <ul>
        {questions.map((asked) => (
          <li key={asked.id} className="mt-2 border-l-2 border-hair pl-3 wrap-anywhere">
            {asked.passage && (
              <p className="text-sm text-soft">{say('ask.about', { passage: asked.passage })}</p>
            )}
            <p>{asked.text}</p>
            <p className={asked.answer === null ? 'text-sm text-soft' : 'font-semibold'}>
              {asked.answer === null
                ? say('ask.waiting')
                : say('ask.answered', { from, answer: asked.answer })}
            </p>
          </li>
        ))}
      </ul>
    </section>
  )
}
