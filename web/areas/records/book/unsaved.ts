import type { FieldValue } from '#core/outline/field.ts'

/** What was entered for a record and is not saved, for whoever comes back to it: by the record's id. */
export interface Entered {
  readonly values: Readonly<Record<string, FieldValue>>
  readonly customer: string | null
}

const kept = new Map<string, Entered>()

export const enteredFor = (id: string | undefined): Entered | null =>
  (id === undefined ? undefined : kept.get(id)) ?? null

export function keepEntered(id: string, entered: Entered | null): void {
  if (entered) kept.set(id, entered)
  else kept.delete(id)
}

window.addEventListener('beforeunload', (event) => {
  if (kept.size > 0) event.preventDefault()
})
