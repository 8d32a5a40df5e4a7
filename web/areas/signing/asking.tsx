import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
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
