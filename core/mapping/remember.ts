import type { Outline } from '../outline/field.ts'
import type { Column } from '../sheet/columns.ts'
import { mappingKey } from './key.ts'
import { fitness, type Mapping } from './suggest.ts'

/** A mapping as it was last used with a source that had these columns. */
export interface RememberedMapping {
  readonly columnNames: readonly string[]
  readonly mapping: Mapping
}

/** A column that a field was fed from and that is no longer there; `now` is the one that took its place, as far as one did. */
export interface Drift {
  readonly field: string
  readonly was: string
  readonly now: string | null
}

/** A mapping as it was used last, with what has changed about the columns since. */
export interface Recalled {
  readonly mapping: Mapping
  readonly drift: readonly Drift[]
}

/** Share of the remembered columns that have to be there still for a source to count as the same again. */
const SAME_SOURCE = 0.6
/** Below this a new column is no likely heir of an old one. */
const HEIR = 0.5

/**
 * The mapping of the most alike source that was used before, carried over to these columns; null where none is alike.
 * A column that went is followed by the likeliest of those that came.
 */
export function recallMapping(
  outline: Outline,
  columns: readonly Column[],
  memories: readonly RememberedMapping[],
): Recalled | null {
  const names = new Set(columns.map(({ name }) => name))
  const likeness = ({ columnNames }: RememberedMapping) =>
    columnNames.filter((name) => names.has(name)).length / Math.max(1, columnNames.length)
  const best = memories.reduce<RememberedMapping | null>(
    (found, each) => (found === null || likeness(each) > likeness(found) ? each : found),
    null,
  )
  if (!best || likeness(best) < SAME_SOURCE) return null
  const known = Object.entries(best.mapping).filter(([key]) => mappingKey(outline, key))
  const kept = known.filter(([, column]) => names.has(column))
  const taken = new Set(kept.map(([, column]) => column))
  const came = columns.filter(({ name }) => !best.columnNames.includes(name))
  const drift = known
    .filter(([, column]) => !names.has(column))
    .map(([key, was]): Drift => {
      const { field } = mappingKey(outline, key)!
      const heirs = came
        .filter(({ name }) => !taken.has(name))
        .map((column) => ({
          column,
          fit: Math.max(fitness(field, column), fitness({ ...field, name: was, label: was }, column)),
        }))
        .filter(({ fit }) => fit >= HEIR)
        .sort((a, b) => b.fit - a.fit)
      const heir = heirs[0]?.column.name ?? null
      if (heir) taken.add(heir)
      return { field: key, was, now: heir }
    })
  return {
    mapping: Object.fromEntries([
      ...kept,
      ...drift.flatMap(({ field, now }) => (now ? [[field, now] as const] : [])),
    ]),
    drift,
  }
}
