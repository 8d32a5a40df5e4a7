import { createStore } from 'zustand/vanilla'

/** How what is written here stands with the server; `at` is an instant of ISO 8601. */
export type SaveState =
  | { readonly kind: 'saved'; readonly at: string }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'saving' }
  /** `lasting`: another try would be refused again. */
  | { readonly kind: 'fault'; readonly text: string; readonly lasting: boolean }

/** A draft as the server has it; `at` is an instant of ISO 8601. */
export interface Kept<T> {
  readonly content: T
  readonly version: number
  readonly at: string
}

/** A draft that a colleague saved since this one was opened; `by`: who it was, if that is known. */
export interface Theirs<T> extends Kept<T> {
  readonly by: string | null
}

/** What came of saving. */
export type Saved<T> =
  | { readonly ok: true; readonly version: number; readonly at: string }
  /** The server was not reached: worth another try. */
  | { readonly ok: false; readonly kind: 'unreached'; readonly text: string }
  | { readonly ok: false; readonly kind: 'refused'; readonly text: string }
  /** A colleague saved since; null if theirs could not be read. */
  | {
      readonly ok: false
      readonly kind: 'overtaken'
      readonly text: string
      readonly theirs: Theirs<T> | null
    }

/** Where a draft is saved. Never throws. */
export interface DraftServer<T> {
  /** `version`: the one that the content was made from. */
  save(content: T, version: number): Promise<Saved<T>>
}

/** Time, in milliseconds. */
export interface Clock {
  now(): number
  /** Calls after so long; gives what stops it. */
  after(delay: number, call: () => void): () => void
}

const wallClock: Clock = {
  now: () => Date.now(),
  after(delay, call) {
    const timer = setTimeout(call, delay)
    return () => clearTimeout(timer)
  },
}

/** What is shown of a draft. */
export interface DraftState<T> {
  readonly content: T
  readonly save: SaveState
  readonly theirs: Theirs<T> | null
  readonly steps: { readonly undo: number; readonly redo: number }
}

/** Milliseconds after the last change until it is saved. */
export const SAVE_PAUSE = 800
/** Milliseconds after a key until what stands beside the text follows: another key may come before. */
export const FOLLOW_PAUSE = 45
/** Milliseconds until a save that was not reached is tried again. */
export const RETRY_PAUSE = 4000
/** Changes of one kind within so many milliseconds of each other are undone together. */
export const TOGETHER = 700
const MOST_STEPS = 300

type Timer = 'save' | 'follow'

/**
 * Keeps one draft, of whatever kind: the one truth of what it says, with undo, saved by itself after a pause. A lost connection is
 * tried again. If a colleague saved since, neither is written over: `theirs` tells theirs until `settleConflict` chooses. Without a
 * server nothing is saved from here: whoever saves it says so by `savedAs`.
 */
export class DraftStore<T> {
  /** Listeners of it are told of every change; React reads it by `useDraft`. */
  readonly shown
  private newest: T
  /** What the server has, as far as is known. */
  private saved: T
  private made: number
  private readonly undone: T[] = []
  private readonly done: T[] = []
  private last = { kind: '', at: 0 }
  private readonly timers = new Map<Timer, () => void>()
  private saving: Promise<boolean> | null = null
  private savedAt: string

  constructor(
    opened: Kept<T>,
    private readonly server: DraftServer<T> | null,
    private readonly clock: Clock = wallClock,
  ) {
    this.newest = this.saved = opened.content
    this.made = opened.version
    this.savedAt = opened.at
    this.shown = createStore<DraftState<T>>()(() => ({
      content: opened.content,
      save: { kind: 'saved', at: opened.at },
      theirs: null,
      steps: { undo: 0, redo: 0 },
    }))
  }

  /** What the draft says, to the last key. */
  get content(): T {
    return this.newest
  }

  /** The version on the server that it was made from. */
  get version(): number {
    return this.made
  }

  /** Whether something is not on the server yet. */
  get unsaved(): boolean {
    return this.newest !== this.saved || this.saving !== null
  }

  readonly state = (): DraftState<T> => this.shown.getState()

  /** A change of what the draft says; those of one kind that follow each other fast are undone together. */
  readonly change = (next: (before: T) => T, kind = ''): void => this.make(next(this.newest), kind)

  /** The same for what was made of the content as it stands. */
  readonly set = (next: T, kind = ''): void => this.make(next, kind)

  readonly undo = (): void => this.step(this.done, this.undone)
  readonly redo = (): void => this.step(this.undone, this.done)

  /**
   * The draft as the server was found to have it. Newer than what is known here it is taken in if nothing is unsaved; else saving
   * will find out.
   */
  readonly seen = (kept: Kept<T>): void => {
    if (this.unsaved || this.state().theirs || kept.version <= this.made) return
    this.made = kept.version
    this.saved = kept.content
    this.savedAt = kept.at
    // Without a change of one's own there is nothing to go back to.
    if (this.done.length > 0) this.remember('')
    this.put(kept.content)
  }

  /** What was saved by somebody else's hand than the draft's own: what was changed meanwhile stays unsaved. */
  readonly savedAs = (content: T, version: number, at: string): void => {
    this.made = version
    this.saved = content
    this.savedAt = at
    this.show({ save: this.standing() })
  }

  /** Saves what is unsaved, at once; gives the version that is on the server then, null if it could not be saved. */
  readonly settle = async (): Promise<number | null> => {
    for (let tries = 0; this.unsaved && tries < 3; tries++) if (!(await this.flush())) return null
    return this.state().theirs ? null : this.made
  }

  /** Ends a conflict: one's own goes over theirs, knowingly, or theirs is taken (undo brings one's own back). */
  readonly settleConflict = (keep: 'mine' | 'theirs'): void => {
    const { theirs } = this.state()
    if (!theirs) return
    this.made = theirs.version
    this.saved = theirs.content
    this.savedAt = theirs.at
    this.show({ theirs: null, save: this.standing() })
    if (keep === 'theirs') this.make(theirs.content, '')
    void this.flush()
  }

  /** What the content was made into by nobody, such as ids that were missing: not a change, and nothing to be saved. */
  protected replace(next: T): void {
    if (this.newest === this.saved) this.saved = next
    this.newest = next
    this.show()
  }

  /** `following`: what stands beside it may wait for the next key. */
  protected make(next: T, kind: string, following = false): void {
    if (next === this.newest) return
    this.remember(kind)
    this.put(next, following)
  }

  /** Told of what the draft says now, and whether that came from where it is written. */
  protected came(_next: T, _before: T, _following: boolean): void {}

  /** Makes what the draft says now a step that can be undone, or part of the last one. */
  private remember(kind: string): void {
    const at = this.clock.now()
    if (kind === '' || kind !== this.last.kind || at - this.last.at > TOGETHER) {
      this.done.push(this.newest)
      if (this.done.length > MOST_STEPS) this.done.shift()
    }
    this.undone.length = 0
    this.last = { kind, at }
  }

  private step(from: T[], to: T[]): void {
    const found = from.pop()
    if (found === undefined) return
    to.push(this.newest)
    this.last = { kind: '', at: 0 }
    this.put(found)
  }

  private put(next: T, following = false): void {
    const before = this.newest
    this.newest = next
    this.soon()
    if (following) this.start('follow', FOLLOW_PAUSE, () => this.show())
    else this.show()
    this.came(next, before, following)
    this.tell()
  }

  /** Has what is unsaved saved after a pause; undone to what the server has, there is nothing to save. */
  private soon(): void {
    if (this.newest === this.saved) this.stop('save')
    else if (this.server && !this.state().theirs) this.start('save', SAVE_PAUSE, () => void this.flush())
  }

  private standing(): SaveState {
    return this.newest === this.saved ? { kind: 'saved', at: this.savedAt } : { kind: 'unsaved' }
  }

  /** Says how it stands with the server, and what can be undone; cheap, since it comes with every key. */
  private tell(): void {
    const { save, steps } = this.state()
    const told = { undo: this.done.length, redo: this.undone.length }
    const same = steps.undo === told.undo && steps.redo === told.redo
    const standing = this.standing()
    const stays =
      save.kind === standing.kind || (save.kind === 'fault' && save.lasting && standing.kind === 'unsaved')
    if (same && stays) return
    this.shown.setState({ steps: same ? steps : told, ...(stays ? {} : { save: standing }) })
  }

  /** Brings what is shown up to what the draft says. */
  private show(more: Partial<DraftState<T>> = {}): void {
    this.stop('follow')
    this.shown.setState({
      content: this.newest,
      steps: { undo: this.done.length, redo: this.undone.length },
      ...more,
    })
  }

  private async flush(): Promise<boolean> {
    this.stop('save')
    if (this.saving) await this.saving
    if (this.state().theirs) return false
    if (this.newest === this.saved || !this.server) return true
    this.saving = this.attempt(this.server)
    return this.saving
  }

  private async attempt(server: DraftServer<T>): Promise<boolean> {
    const sent = this.newest
    this.shown.setState({ save: { kind: 'saving' } })
    const saved = await server.save(sent, this.made)
    this.saving = null
    if (saved.ok) {
      this.made = saved.version
      this.saved = sent
      this.savedAt = saved.at
      this.shown.setState({ save: this.standing() })
      this.soon()
      return true
    }
    this.shown.setState({ save: { kind: 'fault', text: saved.text, lasting: saved.kind !== 'unreached' } })
    if (saved.kind === 'unreached') this.start('save', RETRY_PAUSE, () => void this.flush())
    if (saved.kind === 'overtaken' && saved.theirs) {
      this.stop('save')
      this.shown.setState({ theirs: saved.theirs })
    }
    return false
  }

  private start(timer: Timer, delay: number, call: () => void): void {
    this.stop(timer)
    this.timers.set(
      timer,
      this.clock.after(delay, () => {
        this.timers.delete(timer)
        call()
      }),
    )
  }

  private stop(timer: Timer): void {
    this.timers.get(timer)?.()
    this.timers.delete(timer)
  }
}
