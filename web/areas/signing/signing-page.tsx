import { lazy, Suspense, useEffect, useState } from 'react'
import type { Language } from '#core/languages/language.ts'
import { call, ProblemError, useAnswer } from '#web/api/client.ts'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Closed, Leaf, UnknownLink } from './closed.tsx'
import { Consent } from './consent.tsx'
import type { GateProps } from './gate.ts'
import { Prove } from './prove.tsx'
import { Button } from '#web/parts/button.tsx'
import { LanguageMenu } from './language-menu.tsx'
import { browserLanguage, Speaking, useWords, WrittenIn } from './words.tsx'

const loadSign = () => import('./sign.tsx')
/** Loaded while the first page is being read. */
const Sign = lazy(async () => ({ default: (await loadSign()).Sign }))

/** What a party sees. Works in any browser, a phone's too; needs nothing but the link. */
export function SigningPage({ token }: { readonly token: string }) {
  const signing = useAnswer('signing', { params: { token } })
  const [chosen, setChosen] = useState<Language | null>(null)
  if (signing.isPending) return <Loading />
  if (signing.isError)
    return (
      <Speaking language={browserLanguage()}>
        {signing.error instanceof ProblemError && signing.error.problem.status === 404 ? (
          <UnknownLink />
        ) : (
          <Failed error={signing.error} retry={() => void signing.refetch()} />
        )}
      </Speaking>
    )
  return (
    <Speaking language={chosen ?? signing.data.language}>
      <WrittenIn language={signing.data.documentLanguage}>
        <Gate token={token} signing={signing.data} onLanguage={setChosen} />
      </WrittenIn>
    </Speaking>
  )
}

/** Says once that somebody has it open before them: at their first touch, scroll or key, which no program that looks through mail makes. */
function useOpened(token: string, readable: boolean): void {
  useEffect(() => {
    if (!readable) return
    const control = new AbortController()
    const told = (event: Event) => {
      if (!event.isTrusted) return
      control.abort()
      void call('openSigning', { params: { token } }).catch(() => undefined)
    }
    for (const kind of ['pointerdown', 'keydown', 'wheel', 'touchmove'])
      window.addEventListener(kind, told, { signal: control.signal, passive: true, capture: true })
    return () => control.abort()
  }, [token, readable])
}

/** The gate that the bearer of the link stands before. */
function Gate(props: GateProps) {
  const { status, gates, may, atDeviceOf } = props.signing
  useOpened(props.token, status === 'open' && may.includes('read'))
  const [taken, setTaken] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => void loadSign().catch(() => undefined), 300)
    return () => clearTimeout(timer)
  }, [])
  const next = gates.find(({ passed }) => !passed)?.gate
  if (next === 'identity') return <Prove {...props} />
  if (status !== 'open') return <Closed {...props} />
  if (atDeviceOf && !taken) return <TakeDevice {...props} onTaken={() => setTaken(true)} />
  // Whoever has read it, agreed and filled in is asked nothing of that again.
  return may.includes('consent') ? (
    <Consent {...props} />
  ) : (
    <Suspense fallback={<Loading />}>
      <Sign {...props} />
    </Suspense>
  )
}

/** Between two people at one device: whoever is to sign takes it, and says so, before anything is shown. */
function TakeDevice({ token, signing, onLanguage, onTaken }: GateProps & { readonly onTaken: () => void }) {
  const { say } = useWords()
  const { name, atDeviceOf } = signing
  return (
    <Leaf
      title={say('device.title', { name })}
      aside={<LanguageMenu token={token} onLanguage={onLanguage} />}
    >
      <p>{say('device.text', { name, person: atDeviceOf ?? '' })}</p>
      <p className="mt-5">
        <Button kind="main" className="min-h-11 px-5" onClick={onTaken}>
          {say('device.go', { name })}
        </Button>
      </p>
    </Leaf>
  )
}
