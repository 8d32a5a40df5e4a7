import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import { useStore } from 'zustand'
import type { OneAgreementProof } from '#contract/one-agreement.ts'
import { call, problemText } from '#web/api/client.ts'
import { faultsIn, faultsUnder } from '#web/api/problem.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useSettled } from '#web/parts/use-settled.ts'
import { keepHere } from '#web/frame/kept-here.ts'
import { forgetGiven, type Given, GivenStore, type Item } from './given.ts'

// What was given is kept by the browser beyond the page, so nothing of it is lost by leaving.
keepHere({ unsaved: () => false, forget: () => forgetGiven(sessionStorage) })

/** What an agreement is made of by itself. */
export interface MadeOf {
  readonly kind: 'customer' | 'contact' | 'deal'
  readonly id: string
}

/** A template or packet, as its choice names it. */
export const PACKET = 'packet:'
const bodyOf = (what: string) =>
  what.startsWith(PACKET) ? { packetId: what.slice(PACKET.length) } : { templateId: what }

/** Milliseconds after the last key that the proof follows. */
const PAUSE = 350

export type Value = OneAgreementProof['values'][number]

/** What of is asked and made by: the routes of a record, or those of typed values. */
const routesOf = (of: MadeOf | null) =>
  of
    ? {
        prove: ({ answers }: Typed, what: string, signal: AbortSignal) =>
          call('recordProof', { params: { ...of }, body: { ...bodyOf(what), answers }, signal }),
        make: ({ answers }: Typed, what: string, more: Making) =>
          call('makeOneAgreement', { params: { ...of }, body: { ...bodyOf(what), answers, ...more } }),
      }
    : {
        prove: ({ answers, lists }: Typed, what: string, signal: AbortSignal) =>
          call('typedProof', { body: { ...bodyOf(what), answers, lists: mutable(lists) }, signal }),
        make: ({ answers, lists }: Typed, what: string, more: Making) =>
          call('makeTyped', { body: { ...bodyOf(what), answers, lists: mutable(lists), ...more } }),
      }
type Typed = Pick<Given, 'answers' | 'lists'>
interface Making {
  readonly occasion: string
  readonly another: boolean
}
const mutable = (lists: Given['lists']) =>
  Object.fromEntries(Object.entries(lists).map(([name, items]) => [name, withoutTail(items)]))
/** Items short of those at the end that nobody has written in yet. */
const withoutTail = (items: readonly Item[]): Item[] =>
  items.slice(0, items.findLastIndex((item) => Object.values(item).some((text) => text.trim() !== '')) + 1)

/** One agreement being made, of a record or of typed values (null): what was given for it, its proof, and the making. */
export function useOneAgreement(of: MadeOf | null, what: string) {
  const routes = routesOf(of)
  const navigate = useNavigate()
  const say = useNotice()
  const [keeper] = useState(
    () =>
      new GivenStore(sessionStorage, `${of ? `${of.kind}/${of.id}` : 'typed'}/${what}`, () =>
        crypto.randomUUID(),
      ),
  )
  const given = useStore(keeper.shown)
  const { answers, lists } = useSettled(given, PAUSE)
  const proof = useQuery({
    queryKey: ['recordProof', of, what, answers, lists],
    queryFn: ({ signal }) => routes.prove({ answers, lists }, what, signal),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  })
  const { data } = proof
  const typed = of === null
  useEffect(() => {
    if (data)
      keeper.open(data.values.filter(({ problem }) => typed || problem !== null).map(({ name }) => name))
  }, [keeper, data, typed])
  const { error } = proof
  useEffect(() => {
    // Given for a field that the newest edition has no more: it goes, and the pages come.
    for (const name of Object.keys(faultsUnder(faultsIn(error), 'answers'))) keeper.close(name)
  }, [keeper, error])
  const going = useRef(false)
  const { mutate, isPending } = useMutation({
    mutationFn: (another: boolean) => routes.make(given, what, { occasion: given.occasion, another }),
    onSuccess: ({ id }) => {
      keeper.end()
      say('The agreement is made.')
      // Back leads to the record: what was to be made here is made.
      void navigate(`/agreements/${id}`, { replace: true })
    },
    onError: (error) => {
      going.current = false
      say(problemText(error), 'fault')
      void proof.refetch()
    },
  })
  const values = useMemo(() => splitValues(data?.values ?? [], given.open), [data, given.open])
  return {
    keeper,
    given,
    proof,
    /** Makes it, even where the customer has one already; a second click is none. */
    make: (another: boolean) => {
      if (going.current) return
      going.current = true
      mutate(another)
    },
    making: isPending,
    ...values,
    /** The pages shown are those of what stands here. */
    settled: answers === given.answers && lists === given.lists && !proof.isPlaceholderData,
  }
}

/** Values that have their place to be given in, in its order, and the others in the outline's. */
export const splitValues = (
  values: readonly Value[],
  open: readonly string[],
): { readonly asked: readonly Value[]; readonly rest: readonly Value[] } => ({
  asked: values.filter(({ name }) => open.includes(name)),
  rest: values.filter(({ name }) => !open.includes(name)),
})
