import type { TemplateContent } from '#core/document/template.ts'
import type { DocumentTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'

export type SaveState =
  | { readonly kind: 'saved'; readonly at: string }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'saving' }
  /** `lasting`: another try would be refused again. */
  | { readonly kind: 'fault'; readonly text: string; readonly lasting: boolean }

/** A draft as the server has it; `at` is an instant of ISO 8601. */
export interface Kept {
  readonly content: TemplateContent
  readonly version: number
  readonly at: string
}

/** Somebody else's draft that was saved since this one was opened. */
export interface Theirs extends Kept {
  readonly by: string
}

export type Saved =
  | { readonly ok: true; readonly version: number; readonly at: string }
  /** The server was not reached: worth another try. */
  | { readonly ok: false; readonly kind: 'unreached'; readonly text: string }
  | { readonly ok: false; readonly kind: 'refused'; readonly text: string }
  /** Somebody saved since; null where theirs could not be read. */
  | { readonly ok: false; readonly kind: 'overtaken'; readonly text: string; readonly theirs: Theirs | null }

/** Where a draft is kept. Never throws. */
export interface DraftServer {
  /** `version`: the one that the content was made from. */
  save(content: TemplateContent, version: number): Promise<Saved>
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

export type Change = (next: (before: TemplateContent) => TemplateContent, kind?: string) => void

/** What is shown of a draft. */
export interface DraftState {
  readonly content: TemplateContent
  readonly save: SaveState
  readonly theirs: Theirs | null
  readonly steps: { readonly undo: number; readonly redo: number }
}

/** After the last change until it is saved. */
export const SAVE_PAUSE = 800
/** After a key until what stands beside the text follows: another key may come before. */
export const FOLLOW_PAUSE = 45
export const RETRY_PAUSE = 4000
/** Changes of one kind within this of each other are undone together. */
export const TOGETHER = 700
const MOST_STEPS = 300
/** Kind of the changes that come from writing in the text. */
const WRITING = 'text'

type Timer = 'save' | 'follow'

/**
 * Keeps one draft: the one truth of what it says, saved by itself after a pause, with undo over text and panels alike.
 * The text's editor is a view of it: what is written there comes in by `write`, what changes elsewhere goes out to
 * `onDocument`, at once. All else reads `state`, which follows writing after a pause.
 *
 * A lost connection is tried again. Where somebody else saved since, neither is written over: `theirs` tells theirs until
 * `settleConflict` chooses. Without a server nothing is saved: the content is taken from here.
 */
export class DraftStore {
  private newest: TemplateContent
  private shown: DraftState
  private version: number
  private readonly undone: TemplateContent[] = []
  private readonly done: TemplateContent[] = []
  private last = { kind: '', at: 0 }
  private readonly timers = new Map<Timer, () => void>()
  private saving: Promise<boolean> | null = null
  private dirty = false
  private readonly listeners = new Set<() => void>()
  private readonly pages = new Set<(document: DocumentTree) => void>()

  constructor(
    opened: Kept,
    private readonly server: DraftServer | null,
    private readonly clock: Clock = wallClock,
  ) {
    this.newest = opened.content
    this.version = opened.version
    this.shown = {
      content: opened.content,
      save: { kind: 'saved', at: opened.at },
      theirs: null,
      steps: { undo: 0, redo: 0 },
    }
  }

  /** What the draft says, to the last key. */
  get content(): TemplateContent {
    return this.newest
  }

  /** Whether something is not on the server yet. */
  get unsaved(): boolean {
    return this.dirty || this.saving !== null
  }

  readonly state = (): DraftState => this.shown

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }

  /** Tells of every document that did not come by `write`. */
  readonly onDocument = (page: (document: DocumentTree) => void): (() => void) => {
    this.pages.add(page)
    return () => void this.pages.delete(page)
  }

  readonly change: Change = (next, kind = '') => this.make(next(this.newest), kind)

  /** What the editor of the text says now. */
  readonly write = (document: DocumentTree): void => this.make({ ...this.newest, document }, WRITING)

  /** What the editor makes of the document it was given, such as ids that were missing: nobody's change. */
  readonly adopt = (document: DocumentTree): void => {
    this.newest = { ...this.newest, document }
    this.show()
  }

  readonly undo = (): void => this.step(this.done, this.undone)
  readonly redo = (): void => this.step(this.undone, this.done)

  /**
   * The draft as the server was found to have it. Newer than what is known here it is taken in, where nothing is unsaved;
   * else saving will find out.
   */
  readonly seen = (kept: Kept): void => {
    if (this.unsaved || this.shown.theirs || kept.version <= this.version) return
    this.version = kept.version
    // Without a change of one's own there is nothing to go back to.
    if (this.done.length > 0) this.remember('')
    this.put(kept.content)
    this.dirty = false
    this.stop('save')
    this.show({ save: { kind: 'saved', at: kept.at } })
  }

  /** Saves what is unsaved, at once; gives the version that is on the server then, null where it could not be saved. */
  readonly settle = async (): Promise<number | null> => {
    for (let tries = 0; this.unsaved && tries < 3; tries++) if (!(await this.flush())) return null
    return this.shown.theirs ? null : this.version
  }

  /** Ends a conflict: one's own goes over theirs, knowingly, or theirs is taken (undo brings one's own back). */
  readonly settleConflict = (keep: 'mine' | 'theirs'): void => {
    const { theirs } = this.shown
    if (!theirs) return
    this.version = theirs.version
    this.dirty = true
    this.show({ theirs: null, save: { kind: 'unsaved' } })
    if (keep === 'theirs') this.make(theirs.content, '')
    void this.flush()
  }

  private make(next: TemplateContent, kind: string): void {
    if (next === this.newest) return
    this.remember(kind)
    this.put(next, kind === WRITING)
  }

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

  private step(from: TemplateContent[], to: TemplateContent[]): void {
    const found = from.pop()
    if (!found) return
    to.push(this.newest)
    this.last = { kind: '', at: 0 }
    this.put(found)
  }

  private put(next: TemplateContent, written = false): void {
    const { document } = this.newest
    this.newest = next
    this.dirty = true
    if (this.server && !this.shown.theirs) this.start('save', SAVE_PAUSE, () => void this.flush())
    if (written) this.start('follow', FOLLOW_PAUSE, () => this.show())
    else this.show()
    const { document: shown } = next
    if (!written && shown !== document && isText(shown)) this.pages.forEach((page) => page(shown))
    this.tell()
  }

  /** Says that something is unsaved, and what can be undone; cheap, since it comes with every key. */
  private tell(): void {
    const { save, steps } = this.shown
    const told = { undo: this.done.length, redo: this.undone.length }
    const same = steps.undo === told.undo && steps.redo === told.redo
    const standing = save.kind === 'unsaved' || (save.kind === 'fault' && save.lasting)
    if (same && standing) return
    this.set({ steps: same ? steps : told, ...(standing ? {} : { save: { kind: 'unsaved' } }) })
  }

  /** Brings what is shown up to what the draft says. */
  private show(more: Partial<DraftState> = {}): void {
    this.stop('follow')
    this.set({
      content: this.newest,
      steps: { undo: this.done.length, redo: this.undone.length },
      ...more,
    })
  }

  private set(more: Partial<DraftState>): void {
    this.shown = { ...this.shown, ...more }
    this.listeners.forEach((listener) => listener())
  }

  private async flush(): Promise<boolean> {
    this.stop('save')
    if (this.saving) await this.saving
    if (this.shown.theirs) return false
    if (!this.dirty || !this.server) return true
    this.saving = this.attempt(this.server)
    return this.saving
  }

  private async attempt(server: DraftServer): Promise<boolean> {
    const sent = this.newest
    this.dirty = false
    this.set({ save: { kind: 'saving' } })
    const saved = await server.save(sent, this.version)
    this.saving = null
    if (saved.ok) {
      this.version = saved.version
      this.set({ save: this.dirty ? { kind: 'unsaved' } : { kind: 'saved', at: saved.at } })
      return true
    }
    this.dirty = true
    this.set({ save: { kind: 'fault', text: saved.text, lasting: saved.kind !== 'unreached' } })
    if (saved.kind === 'unreached') this.start('save', RETRY_PAUSE, () => void this.flush())
    if (saved.kind === 'overtaken' && saved.theirs) {
      this.stop('save')
      this.set({ theirs: saved.theirs })
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
