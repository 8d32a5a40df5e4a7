import { useState } from 'react'
import type { Signing } from '#contract/signing.ts'
import { address } from '#web/api/client.ts'
import { useWords } from './words.tsx'

/** The sender's recorded word with what is said in it. It plays when it is started, and never by itself. */
export function Introduction({ token, signing }: { readonly token: string; readonly signing: Signing }) {
  const { say } = useWords()
  const [broken, setBroken] = useState(false)
  const { introduction, from } = signing
  if (!introduction) return null
  const source = address('signingIntroduction', { params: { token } })
  const label = say('page.introduction', { from })
  return (
    <section aria-label={label} className="mt-5 border-l-2 border-hair pl-4">
      <p className="text-sm text-soft">{label}</p>
      {broken ? (
        <p className="mt-2 text-sm text-ochre">{say('page.noPlaying')}</p>
      ) : introduction.kind === 'film' ? (
        <video
          className="mt-2 aspect-video w-full max-w-md bg-ink"
          controls
          preload="none"
          playsInline
          aria-label={label}
          src={source}
          onError={() => setBroken(true)}
        />
      ) : (
        <audio
          className="mt-2 h-11 w-full max-w-md"
          controls
          preload="none"
          aria-label={label}
          src={source}
          onError={() => setBroken(true)}
        />
      )}
      <details className="mt-1" open={broken}>
        <summary className="flex min-h-11 cursor-pointer items-center text-petrol underline">
          {say('page.transcript')}
        </summary>
        <p className="wrap-anywhere whitespace-pre-line">{introduction.transcript}</p>
      </details>
    </section>
  )
}
