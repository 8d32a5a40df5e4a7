import type { RuleTableContent } from '#contract/rule.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { ProblemError, problemText } from '#web/api/problem.ts'

/** How the draft stands with what the server has. */
export type Saving =
  | { readonly kind: 'saved' }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'failed'; readonly problem: string }
  | { readonly kind: 'conflict'; readonly problem: string }

export interface KeptTable {
  readonly table: RuleTable
  /** The version on the server that this one was made from. */
  readonly version: number
  readonly saving: Saving
  readonly undo: number
  readonly redo: number
}

/** What the keeper needs of the world around it. */
export interface TableServer {
  save(version: number, draft: RuleTableContent): Promise<{ version: number }>
  after(milliseconds: number, act: () => void): () => void
}

/** Milliseconds of quiet before a save, and before the next try of one that failed. */
const QUIET = 700
const AGAIN = 4000
/** Steps that can be taken back. */
const STEPS = 200

/**
 * A rule table's draft while it is worked on: its history, and its way to the server. What could not be saved is tried again; where
 * somebody else has saved, nothing is overwritten until a person chooses.
 */
export class TableStore {
  private past: RuleTable[] = []
  private future: RuleTable[] = []
  private group: string | null = null
  private saved: RuleTable
  private timer: (() => void) | null = null
  private under: Promise<void> | null = null
  private readonly listeners = new Set<() => void>()
  private shown: KeptTable

  constructor(
    private readonly server: TableServer,
    table: RuleTable,
    version: number,
  ) {
    this.saved = table
    this.shown = { table, version, saving: { kind: 'saved' }, undo: 0, redo: 0 }
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => void this.listeners.delete(listener)
  }

  readonly state = (): KeptTable => this.shown

  /** A change; those of one group, one after the other, are one step back. */
  readonly change = (made: RuleTable, group: string | null = null): void => {
    const before = this.shown.table
    if (made === before) return
    if (group === null || group !== this.group) this.past = [...this.past, before].slice(-STEPS)
    this.group = group
    this.future = []
    this.show(made)
  }

  readonly undo = (): void => {
    const before = this.past.at(-1)
    if (!before) return
    this.future = [...this.future, this.shown.table]
    this.past = this.past.slice(0, -1)
    this.group = null
    this.show(before)
  }

  readonly redo = (): void => {
    const after = this.future.at(-1)
    if (!after) return
    this.past = [...this.past, this.shown.table]
    this.future = this.future.slice(0, -1)
    this.group = null
    this.show(after)
  }

  /** Saves what is not saved, and tells whether all is. */
  readonly settle = async (): Promise<boolean> => {
    this.timer?.()
    this.timer = null
    await this.under
    if (this.shown.saving.kind === 'conflict') return false
    if (this.shown.table !== this.saved) await this.save()
    return this.shown.saving.kind === 'saved'
  }

  /** After somebody else has saved: their version, or one’s own over it. */
  readonly resolve = (
    theirs: { readonly table: RuleTable; readonly version: number },
    keep: 'mine' | 'theirs',
  ): void => {
    if (keep === 'theirs') {
      this.saved = theirs.table
      this.past = [...this.past, this.shown.table].slice(-STEPS)
      this.set({ table: theirs.table, version: theirs.version, saving: { kind: 'saved' } })
      return
    }
    this.set({ version: theirs.version, saving: { kind: 'unsaved' } })
    this.soon(0)
  }

  readonly stop = (): void => {
    this.timer?.()
    this.timer = null
  }

  private show(table: RuleTable): void {
    const same = table === this.saved
    const standing = this.shown.saving.kind === 'conflict'
    this.set({ table, ...(standing ? {} : { saving: { kind: same ? 'saved' : 'unsaved' } }) })
    if (!standing && !same) this.soon(QUIET)
  }

  private soon(milliseconds: number): void {
    this.timer?.()
    this.timer = this.server.after(milliseconds, () => void this.save())
  }

  private save(): Promise<void> {
    this.under = (this.under ?? Promise.resolve()).then(() => this.saveNow())
    return this.under
  }

  private async saveNow(): Promise<void> {
    const { table, version } = this.shown
    if (table === this.saved || this.shown.saving.kind === 'conflict') return
    try {
      const saved = await this.server.save(version, table as RuleTableContent)
      this.saved = table
      this.set({ version: saved.version, saving: { kind: this.shown.table === table ? 'saved' : 'unsaved' } })
      if (this.shown.table !== table) this.soon(QUIET)
    } catch (error) {
      const problem = problemText(error)
      if (error instanceof ProblemError && error.problem.status === 409) {
        this.set({ saving: { kind: 'conflict', problem } })
        return
      }
      this.set({ saving: { kind: 'failed', problem } })
      this.soon(AGAIN)
    }
  }

  private set(change: Partial<KeptTable>): void {
    this.shown = { ...this.shown, ...change, undo: this.past.length, redo: this.future.length }
    this.listeners.forEach((listener) => listener())
  }
}
