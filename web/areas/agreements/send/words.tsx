import { X } from 'lucide-react'
import { useState } from 'react'
import * as v from 'valibot'
import { call, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { filled, text } from '#web/parts/form/entries.ts'
import { LinesField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'

interface Said {
  readonly subject: string
  readonly message: string
}

/** Subject and message for all recipients, with those that were saved for the next time. */
export function Words({
  subject,
  message,
  hint,
  subjectOnly = false,
  onChange,
  onTake,
}: Said & {
  readonly hint?: string | undefined
  /** The message is the document itself. */
  readonly subjectOnly?: boolean
  readonly onChange: (said: Partial<Said>) => void
  /** Takes a saved message; its merge fields are still to be filled. */
  readonly onTake: (said: Said) => void
}) {
  const [open, setOpen] = useState<'take' | 'save' | null>(null)
  return (
    <section aria-label="Words">
      <div className="mt-6 mb-2 flex items-baseline gap-3">
        <h2 className="font-serif text-base font-semibold">Subject and message</h2>
        <Button kind="quiet" className="ml-auto" disabled={subjectOnly} onClick={() => setOpen('take')}>
          Saved messages
        </Button>
        <Button kind="quiet" disabled={subjectOnly || !message.trim()} onClick={() => setOpen('save')}>
          Save message
        </Button>
      </div>
      <div className="grid gap-2">
        <Labelled label="Subject">
          <Input
            maxLength={200}
            value={subject}
            onChange={(event) => onChange({ subject: event.target.value })}
          />
        </Labelled>
        {!subjectOnly && (
          <Labelled label="Message" hint={hint}>
            <TextArea
              rows={4}
              maxLength={5000}
              value={message}
              onChange={(event) => onChange({ message: event.target.value })}
            />
          </Labelled>
        )}
      </div>
      {open === 'take' && (
        <Take
          onClose={() => setOpen(null)}
          onTake={(said) => {
            setOpen(null)
            onTake(said)
          }}
        />
      )}
      {open === 'save' && <Save said={{ subject, message }} onClose={() => setOpen(null)} />}
    </section>
  )
}

function Take({ onClose, onTake }: { readonly onClose: () => void; readonly onTake: (said: Said) => void }) {
  const kept = useAnswer('savedMessages')
  const drop = useCall('dropMessage')
  return (
    <Dialog title="Saved messages" open onClose={onClose}>
      {kept.isError && <p className="text-brick">The saved messages could not be read.</p>}
      {kept.data?.length === 0 && (
        <p className="text-soft">
          No saved messages yet. Write one and choose “Save message”; names in double braces, such as{' '}
          {'{{number}}'}, are filled for each agreement.
        </p>
      )}
      <ul className="grid gap-1 text-sm">
        {kept.data?.map(({ id, name, subject, message }) => (
          <li key={id} className="flex items-start gap-2 border-b border-hair/60 pb-1">
            <button
              className="min-w-0 flex-1 py-1 text-left hover:text-petrol"
              onClick={() => onTake({ subject, message })}
            >
              <span className="font-semibold">{name}</span>
              <span className="block truncate text-soft">{message || subject}</span>
            </button>
            <button
              className="p-1 text-soft hover:text-brick"
              aria-label={`Delete “${name}”`}
              onClick={() => drop.mutate({ params: { id } })}
            >
              <X size={14} aria-hidden />
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  )
}

const messageSchema = v.object({
  name: filled('Enter a name.', 100),
  subject: text(200),
  message: text(5000),
})

function Save({ said, onClose }: { readonly said: Said; readonly onClose: () => void }) {
  const say = useNotice()
  const kept = useAnswer('savedMessages')
  const entry = useEntry({
    schema: messageSchema,
    start: { name: '', ...said },
    send: (body) => call('keepMessage', { body }),
    onDone: () => {
      say('Message saved.')
      onClose()
    },
  })
  const replaces = kept.data?.some(({ name }) => name === entry.value('name').trim())
  return (
    <Dialog title="Save message" open onClose={onClose}>
      <Form entry={entry} submit="Save message" onClose={onClose}>
        <TextField
          label="Name"
          hint={replaces ? 'It replaces the saved message of this name.' : undefined}
          of={entry.at('name')}
          autoFocus
          maxLength={100}
        />
        <TextField label="Subject" of={entry.at('subject')} maxLength={200} />
        <LinesField
          label="Message"
          hint="For what differs from customer to customer, put a field’s name in double braces, such as {{number}}."
          of={entry.at('message')}
          rows={5}
          maxLength={5000}
        />
      </Form>
    </Dialog>
  )
}
