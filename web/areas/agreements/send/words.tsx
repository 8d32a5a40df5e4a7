import { X } from 'lucide-react'
import { useState } from 'react'
import { useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'

interface Said {
  readonly subject: string
  readonly message: string
}

/** What all of them read: subject and message, with those that were kept for the next time. */
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
  /** Takes a kept message; its merge fields are still to be filled. */
  readonly onTake: (said: Said) => void
}) {
  const [open, setOpen] = useState<'take' | 'keep' | null>(null)
  return (
    <section aria-label="Words">
      <div className="mt-6 mb-2 flex items-baseline gap-3">
        <h2 className="font-serif text-base font-semibold">What all of them read</h2>
        <Button kind="quiet" className="ml-auto" disabled={subjectOnly} onClick={() => setOpen('take')}>
          Kept messages
        </Button>
        <Button kind="quiet" disabled={subjectOnly || !message.trim()} onClick={() => setOpen('keep')}>
          Keep this one
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
      {open === 'keep' && <Keep said={{ subject, message }} onClose={() => setOpen(null)} />}
    </section>
  )
}

function Take({ onClose, onTake }: { readonly onClose: () => void; readonly onTake: (said: Said) => void }) {
  const kept = useAnswer('savedMessages')
  const drop = useCall('dropMessage')
  return (
    <Dialog title="Kept messages" open onClose={onClose}>
      {kept.isError && <p className="text-brick">They cannot be read just now.</p>}
      {kept.data?.length === 0 && (
        <p className="text-soft">
          None yet. Write one and choose “Keep this one”; names in double braces, such as {'{{number}}'}, are
          filled for each agreement.
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
              aria-label={`Keep “${name}” no longer`}
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

function Keep({ said, onClose }: { readonly said: Said; readonly onClose: () => void }) {
  const say = useNotice()
  const [name, setName] = useState('')
  const [text, setText] = useState(said)
  const kept = useAnswer('savedMessages')
  const replaces = kept.data?.some((each) => each.name === name.trim())
  const keep = useCall('keepMessage', () => {
    say('Kept.')
    onClose()
  })
  return (
    <Dialog title="Keep this message" open onClose={onClose}>
      <form
        className="grid gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          keep.mutate({ body: { name, ...text } })
        }}
      >
        <Labelled label="Under the name" hint={replaces ? 'It replaces the one of this name.' : undefined}>
          <Input
            autoFocus
            required
            maxLength={100}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Labelled>
        <Labelled label="Subject">
          <Input
            maxLength={200}
            value={text.subject}
            onChange={(event) => setText({ ...text, subject: event.target.value })}
          />
        </Labelled>
        <Labelled
          label="Message"
          hint="Put a field’s name in double braces where it differs from customer to customer, such as {{number}}."
        >
          <TextArea
            rows={5}
            maxLength={5000}
            value={text.message}
            onChange={(event) => setText({ ...text, message: event.target.value })}
          />
        </Labelled>
        <FormEnd
          className="mt-2"
          label="Keep it"
          busy={keep.isPending}
          disabled={!name.trim()}
          onClose={onClose}
        />
      </form>
    </Dialog>
  )
}
