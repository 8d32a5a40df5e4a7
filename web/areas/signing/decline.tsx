import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { FIELD, Sheet } from './sheet.tsx'
import { useWords } from './words.tsx'

interface Props {
  readonly token: string
  readonly from: string
  readonly onClose: () => void
}

/** Refuses with a reason, which is needed: the sender has to know what to do next. */
export function Decline({ token, from, onClose }: Props) {
  const { say } = useWords()
  const [reason, setReason] = useState('')
  const decline = useMutation({
    mutationFn: () => call('decline', { params: { token }, body: { reason } }),
  })
  return (
    <Sheet title={say('decline.title')} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          decline.mutate()
        }}
      >
        <p>{say('decline.text', { from })}</p>
        <textarea
          rows={3}
          autoFocus
          maxLength={2000}
          className={`mt-3 ${FIELD}`}
          aria-label={say('decline.reason')}
          placeholder={say('decline.reason')}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <Problem error={decline.error} />
        <div className="mt-4 flex flex-wrap justify-end gap-2">
          <Button className="min-h-11" onClick={onClose}>
            {say('page.back')}
          </Button>
          <Button
            kind="danger"
            type="submit"
            className="min-h-11"
            disabled={!reason.trim()}
            busy={decline.isPending}
          >
            {say('decline.go')}
          </Button>
        </div>
      </form>
    </Sheet>
  )
}

export const Problem = ({ error }: { readonly error: unknown }) =>
  error ? (
    <p role="alert" className="mt-2 text-brick">
      {problemText(error)}
    </p>
  ) : null

/** Names somebody else who signs; after that this link leads to nothing. */
export function HandOver({ token, from, onClose }: Props) {
  const { say } = useWords()
  const [to, setTo] = useState({ name: '', email: '', reason: '' })
  const hand = useMutation({ mutationFn: () => call('handOver', { params: { token }, body: to }) })
  const fields = [
    ['name', 'name', 200],
    ['email', 'email', 254],
    ['reason', 'off', 500],
  ] as const
  return (
    <Sheet title={say('handOver.title')} onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          hand.mutate()
        }}
      >
        <p>{say('handOver.text', { from })}</p>
        {fields.map(([field, complete, most]) => (
          <label key={field} className="mt-3 block text-sm text-soft">
            {say(`handOver.${field}`)}
            <input
              className={`mt-1 text-ink ${FIELD}`}
              inputMode={field === 'email' ? 'email' : 'text'}
              autoComplete={complete}
              maxLength={most}
              value={to[field]}
              onChange={(event) => setTo((now) => ({ ...now, [field]: event.target.value }))}
            />
          </label>
        ))}
        <Problem error={hand.error} />
        <div className="mt-4 flex flex-wrap justify-end gap-2">
          <Button className="min-h-11" onClick={onClose}>
            {say('page.back')}
          </Button>
          <Button
            kind="main"
            type="submit"
            className="min-h-11"
            disabled={!(to.name.trim() && to.email.trim() && to.reason.trim())}
            busy={hand.isPending}
          >
            {say('handOver.go')}
          </Button>
        </div>
      </form>
    </Sheet>
  )
}
