import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import { call, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Labelled, Select, TextArea } from '#web/parts/input.tsx'
import { When } from '#web/parts/signs/when.tsx'

type Step = Agreement['steps'][number]

/** Ways to answer an approval that need words. */
export type Way = 'return' | 'ask' | 'hand over'

const WORDS: Readonly<
  Record<Way, { readonly title: string; readonly note: string; readonly act: string; readonly done: string }>
> = {
  return: { title: 'Return it', note: 'Why it goes back', act: 'Return', done: 'It is returned.' },
  ask: {
    title: 'Ask before deciding',
    note: 'The question',
    act: 'Ask',
    done: 'The question is with whoever made it.',
  },
  'hand over': {
    title: 'Hand it over',
    note: 'A word with it',
    act: 'Hand over',
    done: 'It is handed over.',
  },
}

/** Returns, asks or hands over; what was written stays where it is refused. */
export function Deciding({
  way,
  agreement,
  step,
  onClose,
  onDone,
}: {
  readonly way: Way
  readonly agreement: Agreement
  readonly step: Step
  readonly onClose: () => void
  /** Whether it waits for me no more. */
  readonly onDone: (left: boolean) => void
}) {
  const say = useNotice()
  const [note, setNote] = useState('')
  const [to, setTo] = useState('')
  const colleagues = useAnswer('absences', {}, { enabled: way === 'hand over' })
  const earlier = agreement.steps.filter((each) => each.present && each.state === 'approved')
  const words = WORDS[way]
  const params = { id: agreement.id, step: step.id }
  const act = useMutation<unknown>({
    mutationFn: () => {
      if (way === 'return')
        return call('decide', { params, body: { decision: 'return', note, to: to || null } })
      if (way === 'ask') return call('askQuestion', { params, body: { text: note } })
      return call('handOverStep', { params, body: { to, note } })
    },
    onSuccess: () => {
      say(words.done)
      onDone(way === 'return')
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const ready = way === 'hand over' ? to !== '' : note.trim() !== ''
  return (
    <Dialog title={words.title} open onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault()
          if (ready) act.mutate()
        }}
      >
        {way === 'return' && earlier.length > 0 && (
          <Labelled label="To">
            <Select value={to} onChange={(event) => setTo(event.target.value)}>
              <option value="">whoever made it, {agreement.createdBy}</option>
              {earlier.map((each) => (
                <option key={each.id} value={each.id}>
                  {each.approver}, whose approval is asked for again
                </option>
              ))}
            </Select>
          </Labelled>
        )}
        {way === 'hand over' && (
          <Labelled label="To" hint="They may decide it besides those who are asked.">
            <Select value={to} onChange={(event) => setTo(event.target.value)}>
              <option value="">Choose somebody</option>
              {colleagues.data?.colleagues
                .filter(({ approves, left }) => approves && !left)
                .map(({ id, name, post }) => (
                  <option key={id} value={id}>
                    {name}, {post}
                  </option>
                ))}
            </Select>
          </Labelled>
        )}
        <Labelled label={words.note}>
          <TextArea
            autoFocus
            rows={3}
            maxLength={2000}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </Labelled>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button kind="main" type="submit" busy={act.isPending} disabled={!ready}>
            {words.act}
          </Button>
        </div>
      </form>
    </Dialog>
  )
}

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
