import { type AgreementState, stateWord } from '../agreement/states.ts'
import type { RowProblem, SourceRow } from '../mapping/apply.ts'
import { matchKey } from '../records/import.ts'
import { type CellRow, cellText } from '../outline/cell.ts'
import type { Column } from '../sheet/columns.ts'

/** What two rows of the same customer have in common: a field's value, or what stands in a column that feeds none. */
export type KnownBy = { readonly field: string } | { readonly column: string }

/** An agreement from the same template that has not ended. */
export interface LiveAgreement {
  readonly number: string
  readonly state: AgreementState
  /** The value of the field that agreements are known by. */
  readonly said: string
}

/** A row, and what it is known by. */
export interface KnownRow {
  readonly row: number
  /** What the row is known by among the other rows. */
  readonly said: string
  /** What it is known by among agreements, which know nothing of columns; where it is not `said`. */
  readonly named?: string
}

/**
 * Rows of a customer that stands twice in the run or has a live agreement from this template: asked about, by the row.
 * The first of several rows is not asked about on their account.
 */
export function duplicateProblems(
  rows: readonly KnownRow[],
  live: readonly LiveAgreement[],
  by: KnownBy,
): ReadonlyMap<number, readonly RowProblem[]> {
  const problems = new Map<number, RowProblem[]>()
  const place = 'field' in by ? { field: by.field, column: null } : { field: '', column: by.column }
  const say = (row: number, kind: 'twice' | 'live', message: string) =>
    problems.set(row, [...(problems.get(row) ?? []), { ...place, message, kind }])
  const byKey = new Map<string, LiveAgreement>()
  for (const each of live) {
    const key = matchKey(each.said)
    if (key) byKey.set(key, each)
  }
  const first = new Map<string, number>()
  for (const { row, said, named = said } of rows) {
    const key = matchKey(said)
    if (key) {
      const before = first.get(key)
      if (before === undefined) first.set(key, row)
      else say(row, 'twice', `“${said}” stands in row ${before} too.`)
    }
    const other = byKey.get(matchKey(named))
    if (other)
      say(row, 'live', `“${named}” has a live agreement already: ${other.number}, ${stateWord(other.state)}.`)
  }
  return problems
}

/** Customers that a key tells apart, of every hundred that their names do: with fewer it tells apart something else. */
const LEAST_TOLD_APART = 90

/** What is made to tell apart: mail addresses, and what its heading calls a number or code. Two people may have one name. */
const tellsApart = ({ type, name }: Column): boolean =>
  type === 'email' ||
  (['text', 'number'].includes(type) && /\b(?:id|no|nr|number|code|account)\b/i.test(name))

/**
 * The mail address or number by which customers are known better than by their names: filled in every row, the same wherever the name is,
 * and the same for some rows whose names are written differently ("Foxford", "Foxford Ltd"). Of several the one
 * that tells the most apart; null where the names do as well as any.
 */
export function keyColumn(
  columns: readonly Column[],
  rows: readonly SourceRow[],
  name: string,
): string | null {
  const at = columns.findIndex((column) => column.name === name)
  const names = rows.map(({ cells }) => keyOf(cells, at))
  const told = new Set(names).size
  let best: { readonly column: string; readonly apart: number } | null = null
  for (const [i, column] of columns.entries()) {
    if (i === at || !tellsApart(column)) continue
    const byName = new Map<string, string>()
    const keys = new Set<string>()
    const fits = rows.every(({ cells }, nth) => {
      const key = keyOf(cells, i)
      const called = names[nth]!
      const before = byName.get(called)
      if (called) byName.set(called, key)
      keys.add(key)
      return key !== '' && (before === undefined || before === key)
    })
    if (!fits || keys.size >= told || keys.size * 100 < told * LEAST_TOLD_APART) continue
    if (best === null || keys.size > best.apart) best = { column: column.name, apart: keys.size }
  }
  return best?.column ?? null
}

const keyOf = (cells: CellRow, at: number): string => matchKey(cellText(cells[at] ?? null))

/** Rows made one agreement that say the same in every cell: asked about, by the first row of their group. */
export function repeatedRows(
  groups: readonly (readonly SourceRow[])[],
): ReadonlyMap<number, readonly RowProblem[]> {
  const problems = new Map<number, RowProblem[]>()
  for (const group of groups) {
    const first = new Map<string, number>()
    const found: RowProblem[] = []
    for (const { row, cells } of group) {
      const key = JSON.stringify(cells.map((cell) => cellText(cell).trim()))
      const before = first.get(key)
      if (before === undefined) first.set(key, row)
      else
        found.push({
          field: '',
          column: null,
          message: `Row ${row} says the same as row ${before}, cell by cell; both count.`,
          kind: 'twice',
        })
    }
    if (found.length) problems.set(group[0]!.row, found)
  }
  return problems
}
