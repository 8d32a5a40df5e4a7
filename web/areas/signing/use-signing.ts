import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { useStore } from 'zustand'
import type { Signing } from '#contract/signing.ts'
import { missingOf } from '#core/ceremony/gates.ts'
import { call, ProblemError, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { renew } from '#web/api/queries.ts'
import { type Blank, FillStore, type Value } from './fill-store.ts'
import { useLabel, useWords } from './words.tsx'

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

/** Blanks on the page: each is held as it is drawn, to be gone to. */
function usePlaces() {
  const places = useRef(new Map<string, HTMLElement>())
  const [pointed, setPointed] = useState<string | null>(null)
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
  const hold = (id: string) => (element: HTMLElement | null) => {
    if (element) places.current.set(id, element)
    else places.current.delete(id)
  }
  return { pointed, goTo, hold }
}

/** One party's signing: what is filled in, what is missing, and the ways on. */
export function useSigning(token: string, signing: Signing) {
  const { say } = useWords()
  const label = useLabel()
  const notice = useNotice()
  const keeper = useKeeper(token, signing)
  const { values, state } = useStore(keeper.shown)
  const [filling, setFilling] = useState<Blank | null>(null)
  const [scrolled, setScrolled] = useState(false)
  const { pointed, goTo, hold } = usePlaces()
  const missingIn = (filled: typeof values) =>
    missingOf(
      signing.blanks.map((blank) => ({ ...blank, role: signing.role })),
      signing.role,
      new Map(Object.entries(filled)),
      say,
    )
  const asked = signing.blanks.filter((blank) => blank.kind !== 'date')
  const missing = missingIn(values)
  const mayStay = asked.filter(
    (blank) => !isFilled(blank, values) && !missing.some(({ blank: { id } }) => id === blank.id),
  ).length

  const goNext = (after: string) => {
    const rest = missingIn(keeper.read().values)
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
    if (!had) return
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
  return {
    keeper,
    values,
    state,
    filling,
    setFilling,
    setScrolled,
    pointed,
    goTo,
    hold,
    missing,
    /** Blanks that are empty and may stay so. */
    mayStay,
    fill,
    touch,
    /** Initials that one touch can set, once there are some. */
    initials: kept('initials') ? initials : [],
    setAll,
    finish: onFinish,
    finishing: finish.isPending,
  }
}
