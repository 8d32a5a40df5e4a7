import { useMutation } from '@tanstack/react-query'
import { MoreHorizontal } from 'lucide-react'
import { lazy, Suspense, useEffect, useRef, useState } from 'react'
import { useStore } from 'zustand'
import type { Signing } from '#contract/agreement.ts'
import { missingOf } from '#core/ceremony/gates.ts'
import { address, call, ProblemError, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Menu, MenuItem } from '#web/parts/menu.tsx'
import { Loading } from '#web/parts/states.tsx'
import { AskedList } from './asked-list.tsx'
import { Ask } from './asking.tsx'
import { Decline, HandOver } from './decline.tsx'
import { type Blank, FillStore, type Value } from './fill-store.ts'
import { FillPanel } from './fill-panel.tsx'
import { LanguageMenu } from './language-menu.tsx'
import { ReadingView } from './reading-view.tsx'
import { SignaturePanel } from './signature-panel.tsx'
import type { GateProps } from './gate.ts'
import { printOwn } from './print.ts'
import { useLabel, useWords } from './words.tsx'

/** The viewer of pages is loaded with the first look at them: who reads the flowing text on a phone does without. */
const ExactPages = lazy(async () => ({ default: (await import('./exact-pages.tsx')).ExactPages }))

/** Narrower than this, a Letter page fitted to the screen cannot be read; in CSS pixels. */
const NARROW = 760

type View = 'reading' | 'exact'

/** Keeps what is filled in for as long as the page is open; what it cannot send waits in it. */
function useKeeper(token: string, signing: Signing) {
  const notice = useNotice()
  const [keeper] = useState(
    () =>
      new FillStore(signing.values, {
        send: async (changes) => {
          try {
            await call('fillBlanks', { params: { token }, body: { values: changes }, goesOn: true })
            return { kept: true }
          } catch (error) {
            const status = error instanceof ProblemError ? error.problem.status : 0
            const passes = status === 0 || status === 429 || status >= 500
            if (status === 409 || status === 401) void renew('signing')
            return { kept: false, problem: passes ? null : problemText(error) }
          }
        },
        refused: (problem) => notice(problem, 'fault'),
        wait: (milliseconds, act) => {
          const timer = setTimeout(act, milliseconds)
          return () => clearTimeout(timer)
        },
      }),
  )
  useEffect(() => {
    const again = () => keeper.retry()
    // A page that is left with something not yet kept asks before it goes.
    const leave = (event: BeforeUnloadEvent) => keeper.read().state !== 'kept' && event.preventDefault()
    window.addEventListener('online', again)
    window.addEventListener('beforeunload', leave)
    return () => {
      window.removeEventListener('online', again)
      window.removeEventListener('beforeunload', leave)
    }
  }, [keeper])
  return keeper
}

const isFilled = (blank: Blank, values: Readonly<Record<string, Value>>) =>
  blank.kind === 'date' || values[blank.id] !== undefined || blank.rules.preset !== undefined

/** Reading, filling in, signing. */
export function Sign({ token, signing, onLanguage }: GateProps) {
  const { say } = useWords()
  const label = useLabel()
  const notice = useNotice()
  const keeper = useKeeper(token, signing)
  const { values, state } = useStore(keeper.shown)
  const [view, setView] = useState<View>(() => (window.innerWidth < NARROW ? 'reading' : 'exact'))
  const [filling, setFilling] = useState<Blank | null>(null)
  const [open, setOpen] = useState<'decline' | 'hand over' | null>(null)
  const [asking, setAsking] = useState<string | null>(null)
  const [pointed, setPointed] = useState<string | null>(null)
  const [scrolled, setScrolled] = useState(false)
  const places = useRef(new Map<string, HTMLElement>())
  const isSigner = signing.kind === 'signer'
  const asked = signing.blanks.filter((blank) => blank.kind !== 'date')
  const missing = missingOf(
    signing.blanks.map((blank) => ({ ...blank, role: signing.role })),
    signing.role,
    new Map(Object.entries(values)),
    say,
  )
  const mayStay = asked.filter(
    (blank) => !isFilled(blank, values) && !missing.some(({ blank: { id } }) => id === blank.id),
  ).length

  const goTo = (id: string | undefined) => {
    const place = id === undefined ? undefined : places.current.get(id)
    if (!place) return
    place.scrollIntoView({
      block: 'center',
      behavior: window.matchMedia('(prefers-reduced-motion: reduce)').matches ? 'auto' : 'smooth',
    })
    place.focus({ preventScroll: true })
    setPointed(id ?? null)
  }
  const goNext = (after: string) => {
    const rest = missingOf(
      signing.blanks.map((blank) => ({ ...blank, role: signing.role })),
      signing.role,
      new Map(Object.entries(keeper.read().values)),
      say,
    )
    const at = asked.findIndex(({ id }) => id === after)
    const next = rest.find(({ blank }) => asked.findIndex(({ id }) => id === blank.id) > at) ?? rest[0]
    // After the panel has given the focus back.
    setTimeout(() => goTo(next?.blank.id), 60)
  }
  const fill = (blank: Blank, value: Value | null) => {
    keeper.put({ [blank.id]: value })
    if (value) goNext(blank.id)
  }
  /** The signature or initials given before; then one touch is enough. */
  const kept = (kind: Blank['kind']) =>
    asked
      .filter((blank) => blank.kind === kind)
      .map((blank) => values[blank.id])
      .find(Boolean)
  const touch = (blank: Blank) => {
    if (blank.kind === 'date') return
    const had = blank.kind === 'signature' || blank.kind === 'initials' ? kept(blank.kind) : undefined
    if (!values[blank.id] && had) fill(blank, had)
    else setFilling(blank)
  }
  const initials = asked.filter(({ kind, id }) => kind === 'initials' && !values[id])
  const setAll = () => {
    const had = kept('initials')
    if (!had) return setFilling(initials[0]!)
    if (!scrolled) return notice(say('page.scrollFirst'))
    keeper.put(Object.fromEntries(initials.map(({ id }) => [id, had])))
  }
  const finish = useMutation({
    mutationFn: async () => {
      // What was typed last is on its way still.
      if (!(await keeper.settled())) throw new Error(say('page.lost'))
      return call('finishSigning', { params: { token } })
    },
    onError: (error) => {
      notice(problemText(error), 'fault')
      const pointer = error instanceof ProblemError ? error.problem.faults?.[0]?.pointer : undefined
      goTo(asked.find(({ id }) => pointer === `/values/${id}`)?.id)
      void renew('signing')
    },
  })
  const onFinish = () => {
    const [first] = missing
    if (!first) return finish.mutate()
    notice(
      first.message ??
        (missing.length === 1
          ? say('page.emptyOne', { label: label(first.blank) })
          : say('page.emptyMany', { count: missing.length, label: label(first.blank) })),
    )
    goTo(first.blank.id)
  }
  const hold = (id: string) => (element: HTMLElement | null) => {
    if (element) places.current.set(id, element)
    else places.current.delete(id)
  }
  const shown = { token, signing, values, pointed, hold, onTouch: touch, onEnd: () => setScrolled(true) }
  return (
    <div className="flex h-dvh flex-col">
      <header className="flex shrink-0 items-center gap-2 border-b border-hair px-4 py-1.5">
        <div className="min-w-0 flex-1">
          <h1 className="truncate text-base">{signing.title}</h1>
          <p className="truncate text-xs text-soft">
            {say('page.from', { from: signing.from })},{' '}
            {say(isSigner ? 'page.toSign' : 'page.toAgree', { name: signing.name, role: signing.role })}
          </p>
        </div>
        <LanguageMenu token={token} onLanguage={onLanguage} />
        <Menu
          trigger={
            <button
              className="grid size-11 shrink-0 place-items-center text-soft hover:text-ink"
              aria-label={say('page.more')}
            >
              <MoreHorizontal size={20} aria-hidden />
            </button>
          }
        >
          <MenuItem onSelect={() => window.open(address('signingDocument', { params: { token } }), '_blank')}>
            <span className="block py-1.5">{say('page.copy')}</span>
          </MenuItem>
          {isSigner && (
            <MenuItem
              onSelect={() =>
                void printOwn(token).then(
                  () => notice(say('page.printNote', { from: signing.from })),
                  (error: unknown) => notice(problemText(error), 'fault'),
                )
              }
            >
              <span className="block py-1.5">{say('page.print')}</span>
            </MenuItem>
          )}
          <MenuItem onSelect={() => setAsking('')}>
            <span className="block py-1.5">{say('page.ask')}</span>
          </MenuItem>
          {signing.may.includes('hand over') && (
            <MenuItem onSelect={() => setOpen('hand over')}>
              <span className="block py-1.5">{say('page.handOver')}</span>
            </MenuItem>
          )}
          {signing.may.includes('decline') && (
            <MenuItem onSelect={() => setOpen('decline')}>
              <span className="block py-1.5">{say('page.decline')}</span>
            </MenuItem>
          )}
        </Menu>
      </header>
      <div
        className="flex shrink-0 gap-1 border-b border-hair px-3"
        role="group"
        aria-label={say('page.view')}
      >
        {(['reading', 'exact'] as const).map((each) => (
          <button
            key={each}
            aria-pressed={view === each}
            className={`min-h-11 border-b-2 px-2 text-sm ${view === each ? 'border-petrol font-semibold text-petrol' : 'border-transparent text-soft'}`}
            onClick={() => setView(each)}
          >
            {say(each === 'reading' ? 'page.reading' : 'page.exact')}
          </button>
        ))}
      </div>
      <main className="min-h-0 flex-1">
        {view === 'reading' ? (
          <ReadingView {...shown} onAsk={setAsking} onExact={() => setView('exact')}>
            <AskedList signing={signing} />
          </ReadingView>
        ) : (
          <Suspense fallback={<Loading />}>
            <ExactPages {...shown} onValue={(blank, value) => keeper.put({ [blank.id]: value })} />
          </Suspense>
        )}
      </main>
      <footer className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-t border-hair px-4 py-2">
        <p className="min-w-0 basis-full text-sm sm:flex-1 sm:basis-48" role="status">
          {!isSigner
            ? say('page.agreeNote')
            : missing.length > 0
              ? say('page.missing', { count: missing.length })
              : `${say('page.complete')}${mayStay > 0 ? ` ${say('page.mayStay', { count: mayStay })}` : ''}`}
          {state === 'lost' && <span className="block text-brick">{say('page.lost')}</span>}
          {state === 'saving' && <span className="block text-xs text-soft">{say('page.saving')}</span>}
        </p>
        {initials.length > 1 && kept('initials') && (
          <Button className="min-h-11" onClick={setAll}>
            {say('page.allInitials', { count: initials.length })}
          </Button>
        )}
        {missing.length > 0 && (
          <Button className="min-h-11 grow sm:grow-0" onClick={() => goTo(missing[0]!.blank.id)}>
            {say('page.next')}
          </Button>
        )}
        <Button
          kind="main"
          className="min-h-11 grow px-5 sm:grow-0"
          busy={finish.isPending}
          onClick={onFinish}
        >
          {say(isSigner ? 'page.finish' : 'page.agree')}
        </Button>
      </footer>
      {filling && (filling.kind === 'signature' || filling.kind === 'initials') ? (
        <SignaturePanel
          token={token}
          kind={filling.kind}
          name={signing.name}
          filled={values[filling.id] !== undefined}
          onClose={() => setFilling(null)}
          onUse={(value) => {
            setFilling(null)
            fill(filling, value)
          }}
        />
      ) : (
        filling && (
          <FillPanel
            token={token}
            blank={filling}
            value={values[filling.id]}
            onClose={() => setFilling(null)}
            onUse={(value) => {
              setFilling(null)
              fill(filling, value)
            }}
          />
        )
      )}
      {open === 'decline' && <Decline token={token} from={signing.from} onClose={() => setOpen(null)} />}
      {open === 'hand over' && <HandOver token={token} from={signing.from} onClose={() => setOpen(null)} />}
      {asking !== null && (
        <Ask token={token} from={signing.from} passage={asking} onClose={() => setAsking(null)} />
      )}
    </div>
  )
}
