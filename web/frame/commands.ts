import { useEffect } from 'react'
import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'

/** Something that can be done where one is. */
export interface Act {
  readonly label: string
  /** Of what it is done: a template, a run. */
  readonly hint: string
  readonly run: () => void
}

/** What can be done on the page that is open, by the part of the page that offers it. */
const useOffers = create<{ readonly by: ReadonlyMap<object, readonly Act[]> }>()(() => ({ by: new Map() }))

/** Offers what can be done here under Ctrl K, as long as the part stands. */
export function useActs(offered: readonly Act[]): void {
  useEffect(() => {
    const part = {}
    useOffers.setState(({ by }) => ({ by: new Map(by).set(part, offered) }))
    return () => useOffers.setState(({ by }) => ({ by: new Map([...by].filter(([each]) => each !== part)) }))
  }, [offered])
}

export const useOfferedActs = (): readonly Act[] => useOffers(useShallow(({ by }) => [...by.values()].flat()))
