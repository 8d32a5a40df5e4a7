import type { ReactNode } from 'react'
import * as v from 'valibot'
import { filled, text } from './entries.ts'
import { LinesField } from './fields.tsx'
import { Form } from './form.tsx'
import { useEntry } from './use-entry.ts'

/** A form of one text: a reason, a question, what is new. */
export function NoteForm<A>({
  label,
  hint,
  submit,
  ask,
  disabled = false,
  send,
  onDone,
  onClose,
  children,
  autoFocus = onClose !== undefined,
}: {
  readonly label: string
  readonly hint?: string
  readonly submit: string
  /** What to enter, if there has to be something. */
  readonly ask?: string
  readonly disabled?: boolean
  readonly send: (note: string) => Promise<A>
  readonly onDone: (answer: A) => void
  readonly onClose?: () => void
  readonly children?: ReactNode
  /** Whether it stands in a window of its own, and takes the focus. */
  readonly autoFocus?: boolean
}) {
  const entry = useEntry({
    schema: v.object({ note: ask === undefined ? text(2000) : filled(ask, 2000) }),
    start: { note: '' },
    send: ({ note }) => send(note),
    onDone,
  })
  return (
    <Form entry={entry} submit={submit} disabled={disabled} {...(onClose ? { onClose } : {})}>
      {children}
      <LinesField label={label} hint={hint} of={entry.at('note')} autoFocus={autoFocus} maxLength={2000} />
    </Form>
  )
}
