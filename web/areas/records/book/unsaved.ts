import type { FieldValue } from '#core/outline/field.ts'
import { keepHere } from '#web/frame/kept-here.ts'

/** What was entered for a record and is not saved, for whoever comes back to it: by the record's id. */
export interface Entered {
  readonly values: Readonly<Record<string, FieldValue>>
  readonly customer: string | null
  /** Sends it as it stands; a refusal leaves it here. */
  save(): Promise<unknown>
}

const kept = new Map<string, Entered>()

export const enteredFor = (id: string | undefined): Entered | null =>
  (id === undefined ? undefined : kept.get(id)) ?? null

export function keepEntered(id: string, entered: Entered | null): void {
  if (entered) kept.set(id, entered)
  else kept.delete(id)
}

keepHere({
  unsaved: () => kept.size > 0,
  settle: () =>
    Promise.all(
      [...kept].map(([id, entered]) =>
        entered.save().then(
          () => kept.delete(id),
          () => false,
        ),
      ),
    ),
  forget: () => kept.clear(),
})
