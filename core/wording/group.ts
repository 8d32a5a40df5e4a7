import { passagesOf } from './key.ts'

/** A wording of a run: the conditional passages it keeps, and the rows that get it. */
export interface Wording {
  readonly key: string
  readonly rows: readonly number[]
  readonly kept: readonly string[]
  /** Passages it has and the standard has not, and the other way round; both empty for the standard itself. */
  readonly added: readonly string[]
  readonly left: readonly string[]
  readonly standard: boolean
}

/**
 * Groups rows by wording key, most rows first (ties: the lower first row). The standard is the one most rows get: the
 * others are told by what sets them apart from it.
 */
export function groupWordings(
  rows: readonly { readonly row: number; readonly key: string }[],
): readonly Wording[] {
  const byKey = new Map<string, number[]>()
  for (const { row, key } of rows) {
    const found = byKey.get(key)
    if (found) found.push(row)
    else byKey.set(key, [row])
  }
  const groups = [...byKey]
    .map(([key, found]) => ({ key, rows: found.sort((a, b) => a - b), kept: passagesOf(key) }))
    .sort((a, b) => b.rows.length - a.rows.length || a.rows[0]! - b.rows[0]!)
  const standard = new Set(groups[0]?.kept)
  return groups.map((group, i) => ({
    ...group,
    added: group.kept.filter((id) => !standard.has(id)),
    left: [...standard].filter((id) => !group.kept.includes(id)),
    standard: i === 0,
  }))
}
