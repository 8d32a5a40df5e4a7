import type { FieldValue, RecordData } from '../outline/field.ts'

/** What both sides were when they last agreed. */
export interface LastMet {
  /** Their values, as they were read then. */
  readonly theirs: RecordData
  /** The version of ours that came of it. */
  readonly version: number
}

/** A field that says one thing here and another there. */
export interface Difference {
  readonly field: string
  readonly ours: string
  readonly theirs: string
}

/** What a record of theirs does to one of ours. */
export type Meeting =
  /** Nothing of theirs has changed. */
  | { readonly kind: 'same' }
  /** Ours becomes this. */
  | { readonly kind: 'take'; readonly data: RecordData }
  /** Both changed the same fields in different ways: somebody has to say which counts. */
  | { readonly kind: 'conflict'; readonly differences: readonly Difference[] }

const same = (a: FieldValue | undefined, b: FieldValue | undefined): boolean =>
  JSON.stringify(a) === JSON.stringify(b)

const shown = (value: FieldValue | undefined): string =>
  value === undefined ? '' : typeof value === 'object' ? `${value.length} lines` : String(value)

/**
 * Field by field, over the fields that theirs fill: what only they changed is taken, what only we changed stays, and what both
 * changed to different values is a conflict of the whole record; nothing is guessed. Met for the first time, what ours has already
 * and theirs says otherwise is a conflict too.
 */
export function reconcile(
  ours: RecordData,
  theirs: RecordData,
  last: LastMet | null,
  fills: readonly string[],
): Meeting {
  const taken: Record<string, FieldValue> = {}
  const emptied: string[] = []
  const differences: Difference[] = []
  for (const field of fills) {
    const [mine, now, before] = [ours[field], theirs[field], last?.theirs[field]]
    if (same(mine, now) || (last !== null && same(now, before))) continue
    if (last === null ? mine === undefined : same(mine, before)) {
      if (now === undefined) emptied.push(field)
      else taken[field] = now
    } else if (last !== null || now !== undefined)
      differences.push({ field, ours: shown(mine), theirs: shown(now) })
  }
  if (differences.length) return { kind: 'conflict', differences }
  if (Object.keys(taken).length === 0 && emptied.length === 0) return { kind: 'same' }
  const data = Object.fromEntries(Object.entries(ours).filter(([field]) => !emptied.includes(field)))
  return { kind: 'take', data: { ...data, ...taken } }
}
