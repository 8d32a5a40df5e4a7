import { useState } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import { useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { TextArea } from '#web/parts/input.tsx'
import { When } from '#web/parts/signs/when.tsx'

/** What was asked about an agreement, answered in its place. */
export function Asked({ agreement }: { readonly agreement: Agreement }) {
  const may = useMay('runs')
  if (agreement.questions.length === 0) return null
  return (
    <ul className="mt-1">
      {agreement.questions.map((asked) => (
        <li key={asked.id} className="border-l-2 border-hair py-0.5 pl-2">
          <span className="font-semibold">{asked.askedBy}</span> asked <When at={asked.askedAt} />: “
          {asked.text}”
          {asked.answer !== null ? (
            <p>
              <span className="font-semibold">{asked.answeredBy}</span> answered: “{asked.answer}”
            </p>
          ) : may ? (
            <AnswerIt agreement={agreement.id} question={asked.id} />
          ) : (
            <p className="text-soft">not answered yet</p>
          )}
        </li>
      ))}
    </ul>
  )
}

function AnswerIt({ agreement, question }: { readonly agreement: string; readonly question: string }) {
  const say = useNotice()
  const [text, setText] = useState('')
  const answer = useCall('answerQuestion', () => say('Answered.'))
  return (
    <form
      className="mt-1 flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault()
        if (text.trim()) answer.mutate({ params: { id: agreement, question }, body: { text } })
      }}
    >
      <TextArea
        rows={2}
        maxLength={2000}
        aria-label="Answer"
        placeholder="Your answer"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button type="submit" busy={answer.isPending} disabled={!text.trim()}>
        Answer
      </Button>
    </form>
  )
}
