import { createStore } from 'zustand/vanilla'
import type { Signing } from '#contract/signing.ts'

export type Blank = Signing['blanks'][number]
export type Value = Signing['values'][string]
export type Values = Readonly<Record<string, Value>>
type All<V> = Readonly<Record<string, V>>
type Changes<V> = Readonly<Record<string, V | null>>

export interface Filling<V = Value> {
  readonly values: All<V>
  /** `lost`: what was filled in last has not reached the server, and is tried again. */
  readonly state: 'kept' | 'saving' | 'lost'
}

/** What became of changes on their way: kept, refused for good (with why), or not arrived. */
export type Arrival = { readonly kept: true } | { readonly kept: false; readonly problem: string | null }

interface Outside<V> {
  /** `whole`: all that is filled in, with these changes. */
  readonly send: (changes: Changes<V>, whole: All<V>) => Promise<Arrival>
  /** Told of what the server refuses; the blanks stand as they did before. */
  readonly refused: (problem: string) => void
  readonly wait: (milliseconds: number, act: () => void) => () => void
}

const FIRST_PAUSE = 1500
const LONGEST_PAUSE = 20_000

/**
 * Holds what one person has filled in, in a document or a form, and sees that it is kept: changes go out one after the other, those made meanwhile together,
 * and what does not arrive is sent again until it does.
 */
export class FillStore<V = Value> {
  readonly shown
  /** What is known to be kept. */
  private kept: All<V>
  private waiting: Changes<V> = {}
  private sending: Changes<V> | null = null
  private pause = FIRST_PAUSE
  private stopWaiting: (() => void) | null = null

  constructor(
    values: All<V>,
    private readonly outside: Outside<V>,
  ) {
    this.kept = values
    this.shown = createStore<Filling<V>>()(() => ({ values, state: 'kept' }))
  }

  readonly read = (): Filling<V> => this.shown.getState()

  put(changes: Changes<V>): void {
    this.waiting = { ...this.waiting, ...changes }
    this.show('saving')
    if (!this.sending) void this.send()
  }

  /** Resolves once everything is kept, or refused. */
  async settled(): Promise<boolean> {
    if (this.read().state === 'kept') return true
    return new Promise((resolve) => {
      const stop = this.shown.subscribe(() => {
        if (this.read().state === 'saving') return
        stop()
        resolve(this.read().state === 'kept')
      })
    })
  }

  /** Tries at once what has not arrived: the connection is back. */
  retry(): void {
    if (this.read().state !== 'lost' || this.sending) return
    this.stopWaiting?.()
    this.show('saving')
    void this.send()
  }

  private async send(): Promise<void> {
    this.stopWaiting = null
    const changes = this.waiting
    this.waiting = {}
    this.sending = changes
    const arrival = await this.outside.send(changes, applied(this.kept, changes))
    this.sending = null
    if (arrival.kept) {
      this.kept = applied(this.kept, changes)
      this.pause = FIRST_PAUSE
    } else if (arrival.problem !== null) this.outside.refused(arrival.problem)
    else {
      // What was changed since is newer.
      this.waiting = { ...changes, ...this.waiting }
      this.show('lost')
      this.stopWaiting = this.outside.wait(this.pause, () => void this.send())
      this.pause = Math.min(this.pause * 2, LONGEST_PAUSE)
      return
    }
    if (Object.keys(this.waiting).length) {
      this.show('saving')
      return this.send()
    }
    this.show('kept')
  }

  private show(state: Filling<V>['state']): void {
    const values = applied(applied(this.kept, this.sending ?? {}), this.waiting)
    this.shown.setState({ values, state })
  }
}

const applied = <V>(values: All<V>, changes: Changes<V>): All<V> =>
  Object.fromEntries(
    Object.entries({ ...values, ...changes }).filter((entry): entry is [string, V] => entry[1] !== null),
  )
