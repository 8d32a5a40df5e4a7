import { stateWord } from '../agreement/states.ts'
import type { AgreementState } from '../agreement/states.ts'
import type { RowProblem, SourceRow } from '../mapping/apply.ts'
import type { RecordData } from '../outline/field.ts'
import { matchKey } from '../records/import.ts'
import { cellText } from '../sheet/cell.ts'

/** An agreement from the same template that has not ended, by the value it is known by. */
export interface LiveAgreement {
  readonly number: string
  readonly state: AgreementState
  readonly data: RecordData
}

/**
 * Rows of a customer that stands twice in the run or has a live agreement from this template: asked about, by the row.
 * The first of several rows is not asked about on their account.
 */
export function duplicateProblems(
  rows: readonly { readonly row: number; readonly data: RecordData }[],
  live: readonly LiveAgreement[],
  field: string,
): ReadonlyMap<number, readonly RowProblem[]> {
  const problems = new Map<number, RowProblem[]>()
  const say = (row: number, kind: 'twice' | 'live', message: string) =>
    problems.set(row, [...(problems.get(row) ?? []), { field, column: null, message, kind }])
  const byKey = new Map<string, LiveAgreement>()
  for (const each of live) {
    const key = matchKey(each.data[field])
    if (key) byKey.set(key, each)
  }
  const first = new Map<string, number>()
  for (const { row, data } of rows) {
    const key = matchKey(data[field])
    if (!key) continue
    const before = first.get(key)
    if (before === undefined) first.set(key, row)
    else say(row, 'twice', `“${String(data[field])}” stands in row ${before} too.`)
    const other = byKey.get(key)
    if (other)
      say(
        row,
        'live',
        `“${String(data[field])}” has a live agreement already: ${other.number}, ${stateWord(other.state)}.`,
      )
  }
  return problems
}

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
