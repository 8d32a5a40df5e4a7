import type { IntakeForm } from '#core/intake/form.ts'

export interface DraftState {
  readonly form: IntakeForm
  /** It differs from what is kept. */
  readonly changed: boolean
  readonly canUndo: boolean
  readonly canRedo: boolean
}

/** Steps that can be taken back. */
const STEPS = 200

/** A form while it is being changed, with undo and redo. Writing in one place is one step. */
export class FormDraft {
  private readonly listeners = new Set<() => void>()
  private past: IntakeForm[] = []
  private future: IntakeForm[] = []
  private kept: IntakeForm
  private place: string | null = null
  private state: DraftState

  constructor(
    form: IntakeForm,
    /** The version that it was made from. */
    public version: number,
  ) {
    this.kept = form
    this.state = { form, changed: false, canUndo: false, canRedo: false }
  }

  readonly read = (): DraftState => this.state
  readonly listen = (listener: () => void): (() => void) => {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  /** `place`: where somebody writes; what is written there without a pause elsewhere is one step. */
  change(act: (form: IntakeForm) => IntakeForm, place: string | null = null): void {
    const form = act(this.state.form)
    if (form === this.state.form) return
    if (place === null || place !== this.place) this.past = [...this.past, this.state.form].slice(-STEPS)
    this.place = place
    this.future = []
    this.show(form)
  }

  undo(): void {
    const before = this.past.at(-1)
    if (!before) return
    this.past = this.past.slice(0, -1)
    this.future = [this.state.form, ...this.future]
    this.place = null
    this.show(before)
  }

  redo(): void {
    const [next, ...rest] = this.future
    if (!next) return
    this.past = [...this.past, this.state.form]
    this.future = rest
    this.place = null
    this.show(next)
  }

  /** What was sent to be kept is kept; what was changed meanwhile is not. */
  keep(form: IntakeForm, version: number): void {
    this.kept = form
    this.version = version
    this.show(this.state.form)
  }

  private show(form: IntakeForm): void {
    this.state = {
      form,
      changed: JSON.stringify(form) !== JSON.stringify(this.kept),
      canUndo: this.past.length > 0,
      canRedo: this.future.length > 0,
    }
    for (const listener of this.listeners) listener()
  }
}
