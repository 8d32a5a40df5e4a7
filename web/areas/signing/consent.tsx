import { useMutation } from '@tanstack/react-query'
import { lazy, Suspense, useState } from 'react'
import { address, call, problemText } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Leaf } from './closed.tsx'
import { Introduction } from './introduction.tsx'
import { LanguageMenu } from './language-menu.tsx'
import type { GateProps } from './gate.ts'
import { printOwn } from './print.ts'
import { useWords } from './words.tsx'

/** Loaded for those who refuse. */
const Decline = lazy(async () => ({ default: (await import('./decline.tsx')).Decline }))

/** Consent before anything can be signed, with the disclosures of 15 U.S.C. 7001(c)(1), and what the sender writes. */
export function Consent({ token, signing, onLanguage }: GateProps) {
  const { say, day } = useWords()
  const [agreed, setAgreed] = useState(false)
  const [declining, setDeclining] = useState(false)
  const consent = useMutation({ mutationFn: () => call('consent', { params: { token } }) })
  const print = useMutation({ mutationFn: () => printOwn(token) })
  const { from, name, role, pages, title, message, alone, signByDay, kind, may } = signing
  return (
    <Leaf title={title} aside={<LanguageMenu token={token} onLanguage={onLanguage} />}>
      <p className="text-sm text-soft">{say('page.from', { from })}</p>
      <p className="mt-3">
        {say(kind === 'assenter' ? 'consent.agreePages' : 'consent.pages', { name, role, count: pages })}{' '}
        {signByDay && say('consent.until', { day: day(new Date(signByDay), 'UTC') })}
      </p>
      <Introduction token={token} signing={signing} />
      {(message || alone) && (
        <section aria-label={say('page.message', { from })} className="mt-5 border-l-2 border-hair pl-4">
          {message && <p className="wrap-anywhere whitespace-pre-line">{message}</p>}
          {alone && (
            <p className="mt-2 wrap-anywhere whitespace-pre-line">
              <span className="block text-sm text-soft">{say('page.alone')}</span>
              {alone}
            </p>
          )}
        </section>
      )}
      <h2 className="mt-8 text-lg">{say('consent.heading')}</h2>
      <ul className="mt-2 list-disc space-y-1.5 pl-4 text-base">
        <li>{say('consent.binds')}</li>
        <li>
          {say('consent.paper', { from })}{' '}
          {kind === 'signer' && (
            <button className="text-petrol underline" onClick={() => print.mutate()}>
              {say('page.print')}
            </button>
          )}
          {print.isSuccess && <span className="block">{say('page.printNote', { from })}</span>}
          {print.isError && (
            <span role="alert" className="block text-brick">
              {problemText(print.error)}
            </span>
          )}
        </li>
        <li>
          {say('consent.needs')}{' '}
          <a
            className="text-petrol underline"
            href={address('signingDocument', { params: { token } })}
            target="_blank"
            rel="noreferrer"
          >
            {say('page.copy')}
          </a>
        </li>
        <li>{say('consent.changes', { from })}</li>
      </ul>
      <label className="mt-6 flex min-h-11 items-center gap-3">
        <input
          type="checkbox"
          className="size-5 shrink-0"
          checked={agreed}
          onChange={(event) => setAgreed(event.target.checked)}
        />
        {say('consent.agree')}
      </label>
      {consent.isError && (
        <p role="alert" className="mt-3 text-brick">
          {problemText(consent.error)}
        </p>
      )}
      <div className="mt-4 flex flex-wrap gap-3">
        <Button
          kind="main"
          className="min-h-11 px-5"
          disabled={!agreed}
          busy={consent.isPending}
          onClick={() => consent.mutate()}
        >
          {say('consent.go')}
        </Button>
        {may.includes('decline') && (
          <Button kind="quiet" className="min-h-11" onClick={() => setDeclining(true)}>
            {say('page.decline')}
          </Button>
        )}
      </div>
      {declining && (
        <Suspense>
          <Decline token={token} from={from} onClose={() => setDeclining(false)} />
        </Suspense>
      )}
    </Leaf>
  )
}
