import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { Agreement } from '#contract/agreement.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Labelled, Select, TextArea } from '#web/parts/input.tsx'

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
