import * as v from 'valibot'
import type { Agreement } from '#contract/agreement.ts'
import { call, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { filled, text } from '#web/parts/form/entries.ts'
import { LinesField, SelectField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'

type Step = Agreement['steps'][number]

/** Ways to answer an approval that need words. */
export type Way = 'return' | 'ask' | 'hand over'

const WORDS: Readonly<Record<Way, Readonly<Record<'title' | 'note' | 'ask' | 'act' | 'done', string>>>> = {
  return: {
    title: 'Return agreement',
    note: 'Why it goes back',
    ask: 'Enter why the agreement goes back.',
    act: 'Return',
    done: 'Agreement returned.',
  },
  ask: {
    title: 'Ask before deciding',
    note: 'Question',
    ask: 'Enter a question.',
    act: 'Ask',
    done: 'The author has the question.',
  },
  'hand over': {
    title: 'Hand over approval',
    note: 'Note',
    ask: '',
    act: 'Hand over',
    done: 'Approval handed over.',
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
  const colleagues = useAnswer('absences', {}, { enabled: way === 'hand over' })
  const earlier = agreement.steps.filter((each) => each.present && each.state === 'approved')
  const words = WORDS[way]
  const params = { id: agreement.id, step: step.id }
  const entry = useEntry({
    schema: v.object({
      note: way === 'hand over' ? text(2000) : filled(words.ask, 2000),
      to: way === 'hand over' ? filled('Choose a colleague.') : v.string(),
    }),
    start: { note: '', to: '' },
    send: ({ note, to }): Promise<unknown> => {
      switch (way) {
        case 'return':
          return call('decide', { params, body: { decision: 'return', note, to: to || null } })
        case 'ask':
          return call('askQuestion', { params, body: { text: note } })
        case 'hand over':
          return call('handOverStep', { params, body: { to, note } })
      }
    },
    onDone: () => {
      say(words.done)
      onDone(way === 'return')
    },
  })
  return (
    <Dialog title={words.title} open onClose={onClose}>
      <Form entry={entry} submit={words.act} onClose={onClose}>
        {way === 'return' && earlier.length > 0 && (
          <SelectField
            label="To"
            of={entry.at('to')}
            options={[
              ['', `the author, ${agreement.createdBy}`],
              ...earlier.map(({ id, approver }) => [id, `${approver}, who approves again`] as const),
            ]}
          />
        )}
        {way === 'hand over' && (
          <SelectField
            label="To"
            hint="This colleague can decide besides those who are asked."
            of={entry.at('to')}
            options={[
              ['', 'Choose a colleague'],
              ...(colleagues.data?.colleagues ?? [])
                .filter(({ approves, left }) => approves && !left)
                .map(({ id, name, post }) => [id, `${name}, ${post}`] as const),
            ]}
          />
        )}
        <LinesField label={words.note} of={entry.at('note')} autoFocus maxLength={2000} />
      </Form>
    </Dialog>
  )
}
