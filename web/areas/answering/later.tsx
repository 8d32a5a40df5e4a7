import { useState } from 'react'
import type { Speaker } from '#core/languages/speak.ts'
import type { Answering } from './use-answering.ts'

/** Says that what is written is kept, and how to come back to it. */
export function Later({
  state,
  begun,
  speaker: { say },
}: {
  readonly state: Answering['state']
  /** It has an address of its own. */
  readonly begun: boolean
  readonly speaker: Speaker
}) {
  const [open, setOpen] = useState(false)
  const [copied, setCopied] = useState(false)
  if (!begun && state === 'kept') return null
  return (
    <aside className="mt-6 text-sm text-soft">
      <p role="status" className={state === 'lost' ? 'text-brick' : ''}>
        {say(state === 'kept' ? 'form.kept' : state === 'saving' ? 'form.keeping' : 'form.notKept')}
        {begun && (
          <button
            type="button"
            className="ml-3 min-h-11 text-petrol underline"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {say('form.later')}
          </button>
        )}
      </p>
      {open && (
        <div className="mt-1 border-l-2 border-hair pl-3">
          <p>{say('form.laterText')}</p>
          <code className="mt-2 block text-xs break-all select-all">{window.location.href}</code>
          <button
            type="button"
            className="min-h-11 text-petrol underline"
            onClick={() =>
              void navigator.clipboard.writeText(window.location.href).then(() => setCopied(true))
            }
          >
            {say(copied ? 'form.copied' : 'form.copy')}
          </button>
        </div>
      )}
    </aside>
  )
}
