import { createStore } from 'zustand/vanilla'

/** One item of a list, as typed, by its fields. */
export type Item = Readonly<Record<string, string>>

/** What was given for one agreement that has not been made yet. */
export interface Given {
  /** Values as typed, by field. */
  readonly answers: Readonly<Record<string, string>>
  /** Items of lists, as typed, by the list's name; only where no record gives them. */
  readonly lists: Readonly<Record<string, readonly Item[]>>
  /** Fields that have their place to be given in, in the order they came up: none goes while it is being written in. */
  readonly open: readonly string[]
  /** Names this one making: asked for again after a lost answer, nothing is made twice. */
  readonly occasion: string
}

/** The part of the browser's storage that is used. */
export type Store = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>

/**
 * Keeps what is given for one agreement until it is made: it is there again after going back, going elsewhere and loading
 * the page anew. Known by what it is made of (`of`: record and template).
 */
export class GivenStore {
  readonly shown

  constructor(
    private readonly store: Store,
    private readonly of: string,
    newOccasion: () => string,
  ) {
    const kept = read(store.getItem(keyOf(of)))
    this.shown = createStore<Given>()(
      () => kept ?? { answers: {}, lists: {}, open: [], occasion: newOccasion() },
    )
  }

  readonly current = (): Given => this.shown.getState()

  answer(name: string, text: string): void {
    this.change({ ...this.current(), answers: { ...this.current().answers, [name]: text } })
  }

  /** Sets all items of a list. */
  setItems(list: string, items: readonly Item[]): void {
    this.change({ ...this.current(), lists: { ...this.current().lists, [list]: items } })
  }

  /** Gives fields their place; those that have one keep it. */
  open(names: readonly string[]): void {
    const fresh = [...new Set(names)].filter((name) => !this.current().open.includes(name))
    if (fresh.length) this.change({ ...this.current(), open: [...this.current().open, ...fresh] })
  }

  /** Takes a field's answer and place back: what the record says holds again. */
  close(name: string): void {
    const { [name]: _gone, ...answers } = this.current().answers
    this.change({ ...this.current(), answers, open: this.current().open.filter((each) => each !== name) })
  }

  /** It has been made: the next one begins empty. */
  end(): void {
    this.store.removeItem(keyOf(this.of))
  }

  private change(given: Given): void {
    this.shown.setState(given, true)
    this.store.setItem(keyOf(this.of), JSON.stringify(given))
  }
}

const PREFIX = 'brevan.one-agreement '
const keyOf = (of: string): string => PREFIX + of

/** Forgets what was given for all agreements that were not made. */
export function forgetGiven(storage: Storage): void {
  for (const key of Object.keys(storage)) if (key.startsWith(PREFIX)) storage.removeItem(key)
}

function read(kept: string | null): Given | null {
  try {
    const given = JSON.parse(kept ?? 'null') as Given | null
    return given && Array.isArray(given.open) && typeof given.answers === 'object' && given.occasion
      ? // Kept by a window of before, which knew no lists.
        { ...given, lists: given.lists ?? {} }
      : null
  } catch {
    return null
  }
}
