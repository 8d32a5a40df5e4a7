import { useEffect, useSyncExternalStore } from 'react'

/** Something that can be done where one is. */
export interface Act {
  readonly label: string
  /** Of what it is done: a template, a run. */
  readonly hint: string
  readonly run: () => void
}

/** What can be done on the page that is open; the parts of the page say so as they come and go. */
class Acts {
  private readonly offered = new Map<object, readonly Act[]>()
  private all: readonly Act[] = []
  private readonly listeners = new Set<() => void>()

  readonly offer = (by: object, acts: readonly Act[]): void => {
    this.offered.set(by, acts)
    this.tell()
  }

  readonly withdraw = (by: object): void => {
    this.offered.delete(by)
    this.tell()
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }

  readonly list = (): readonly Act[] => this.all

  private tell(): void {
    this.all = [...this.offered.values()].flat()
    this.listeners.forEach((listener) => listener())
  }
}

const acts = new Acts()

/** Offers what can be done here under Ctrl K, as long as the part stands. */
export function useActs(offered: readonly Act[]): void {
  useEffect(() => {
    const by = {}
    acts.offer(by, offered)
    return () => acts.withdraw(by)
  }, [offered])
}

export const useOfferedActs = (): readonly Act[] => useSyncExternalStore(acts.subscribe, acts.list)
