import type { ReactNode } from 'react'
import { address } from '#web/api/client.ts'
import { AskedList } from './asked-list.tsx'
import { LanguageMenu } from './language-menu.tsx'
import type { GateProps } from './gate.ts'
import { useWords } from './words.tsx'

/** A page of few words. */
export function Leaf({
  title,
  aside,
  children,
}: {
  readonly title: string
  readonly aside?: ReactNode
  readonly children: ReactNode
}) {
  return (
    <main className="mx-auto max-w-xl px-5 pt-3 pb-20">
      <div className="flex min-h-11 justify-end">{aside}</div>
      <h1 className="mt-6 text-2xl">{title}</h1>
      <div className="mt-3 text-[1.0625rem] leading-relaxed">{children}</div>
    </main>
  )
}

export function UnknownLink() {
  const { say } = useWords()
  return <Leaf title={say('closed.unknown.title')}>{say('closed.unknown.text')}</Leaf>
}

/** Why there is nothing to be done here, and what can be read still. */
export function Closed({ token, signing, onLanguage }: GateProps) {
  const { say } = useWords()
  const { status, from, title, may } = signing
  if (status === 'open') return null
  // Come from an intake form, where there may be more to sign.
  const form = /^#form=([\w-]{43})$/.exec(window.location.hash)?.[1]
  return (
    <Leaf
      title={say(`closed.${status}.title`)}
      aside={<LanguageMenu token={token} onLanguage={onLanguage} />}
    >
      <p>{say(`closed.${status}.text`, { from })}</p>
      {may.includes('read') && (
        <p className="mt-4">
          <a
            className="inline-flex min-h-11 items-center text-petrol underline"
            href={address('signingDocument', { params: { token } })}
            target="_blank"
            rel="noreferrer"
          >
            {say('page.copy')}
          </a>
        </p>
      )}
      {form && (status === 'signed' || status === 'executed') && (
        <p className="mt-4">
          <a className="inline-flex min-h-11 items-center text-petrol underline" href={`/form/${form}`}>
            {say('form.goBack')}
          </a>
        </p>
      )}
      {signing.atDeviceOf && status !== 'waiting' && (
        <p className="mt-4 font-semibold">{say('device.back', { person: signing.atDeviceOf })}</p>
      )}
      <AskedList signing={signing} />
      {title && <p className="mt-6 border-t border-hair pt-3 text-sm text-soft">{title}</p>}
    </Leaf>
  )
}
