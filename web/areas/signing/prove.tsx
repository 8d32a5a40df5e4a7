import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Leaf } from './closed.tsx'
import { LanguageMenu } from './language-menu.tsx'
import type { GateProps } from './gate.ts'
import { useWords } from './words.tsx'

/** Asks for the code that the sender told, or that is sent; nothing of the agreement is shown before. */
export function Prove({ token, signing, onLanguage }: GateProps) {
  const { say } = useWords()
  const { check, from } = signing
  const [code, setCode] = useState('')
  const send = useMutation({ mutationFn: () => call('sendCode', { params: { token } }) })
  const prove = useMutation({ mutationFn: () => call('prove', { params: { token }, body: { code } }) })
  const isSent = check.kind !== 'agreed code'
  const problem = prove.error ?? send.error
  return (
    <Leaf title={say('check.title')} aside={<LanguageMenu token={token} onLanguage={onLanguage} />}>
      <p className="text-sm text-soft">{from}</p>
      {check.kind !== 'link' && <p className="mt-2">{say(`check.${check.kind}`, { from, to: check.to })}</p>}
      {isSent && (
        <p className="mt-4">
          <Button
            kind={send.isSuccess ? 'plain' : 'main'}
            className="min-h-11 px-5"
            busy={send.isPending}
            onClick={() => {
              prove.reset()
              send.mutate()
            }}
          >
            {say(send.isSuccess ? 'check.sendAgain' : 'check.send')}
          </Button>
        </p>
      )}
      {send.isSuccess && (
        <p role="status" className="mt-2 text-sm text-soft">
          {say('check.sent')}
        </p>
      )}
      <form
        className="mt-5"
        onSubmit={(event) => {
          event.preventDefault()
          if (code.trim()) prove.mutate()
        }}
      >
        <label className="block text-sm text-soft" htmlFor="code">
          {say('check.field')}
        </label>
        <input
          id="code"
          className="mt-1 min-h-11 w-full max-w-64 rounded-sm border border-hair bg-sheet px-3 font-mono text-lg"
          autoComplete="one-time-code"
          inputMode={isSent ? 'numeric' : 'text'}
          maxLength={60}
          aria-invalid={prove.isError}
          aria-describedby={problem ? 'code-problem' : undefined}
          value={code}
          onChange={(event) => setCode(event.target.value)}
        />
        {problem && (
          <p role="alert" id="code-problem" className="mt-2 text-brick">
            {problemText(problem)}
          </p>
        )}
        <p className="mt-4">
          <Button
            kind={isSent && !send.isSuccess ? 'plain' : 'main'}
            type="submit"
            className="min-h-11 px-5"
            busy={prove.isPending}
            disabled={!code.trim()}
          >
            {say('check.go')}
          </Button>
        </p>
      </form>
    </Leaf>
  )
}
