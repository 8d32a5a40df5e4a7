import type { ReadRow, RowProblem } from '../mapping/apply.ts'
import type { FieldValue, Outline, RecordData } from '../outline/field.ts'

/** A record that an import may meet. */
export interface KnownRecord {
  readonly id: string
  readonly data: RecordData
}

/** What an import does with one row. */
export type ImportStep =
  | { readonly kind: 'new'; readonly row: number; readonly data: RecordData }
  | {
      readonly kind: 'changed'
      readonly row: number
      readonly id: string
      readonly data: RecordData
      /** Fields that differ, with what stood there before. */
      readonly differences: readonly {
        readonly field: string
        readonly before: string
        readonly after: string
      }[]
    }
  | { readonly kind: 'untouched'; readonly row: number; readonly id: string }
  | { readonly kind: 'faulty'; readonly row: number; readonly problems: readonly RowProblem[] }

/** Two texts name the same where they differ in case and spaces only. */
export const matchKey = (value: FieldValue | undefined): string =>
  value === undefined || typeof value === 'object'
    ? ''
    : String(value).normalize('NFC').trim().replace(/\s+/g, ' ').toLowerCase()

const same = (a: FieldValue | undefined, b: FieldValue | undefined): boolean =>
  JSON.stringify(a) === JSON.stringify(b)

const shown = (value: FieldValue | undefined): string =>
  value === undefined ? '' : typeof value === 'object' ? `${value.length} items` : String(value)

/**
 * What an import would do, row by row. Rows whose key stands in a record change it (fields that the row leaves empty stay
 * as they are), others make a new one; a key that stands twice in the sheet or in several records is a fault.
 */
export function planImport(
  fields: Outline,
  rows: readonly (ReadRow & { readonly row: number })[],
  records: readonly KnownRecord[],
  keyField: string,
): readonly ImportStep[] {
  const byKey = new Map<string, KnownRecord[]>()
  for (const record of records) {
    const key = matchKey(record.data[keyField])
    if (key) byKey.set(key, [...(byKey.get(key) ?? []), record])
  }
  const label = fields.find(({ name }) => name === keyField)?.label ?? keyField
  const seen = new Map<string, number>()
  return rows.map(({ row, data, problems }): ImportStep => {
    if (problems.length) return { kind: 'faulty', row, problems }
    const fault = (message: string): ImportStep => ({
      kind: 'faulty',
      row,
      problems: [{ field: keyField, column: null, message }],
    })
    const key = matchKey(data[keyField])
    if (key === '') return fault(`“${label}” is empty: the row cannot be matched.`)
    const before = seen.get(key)
    if (before !== undefined) return fault(`“${shown(data[keyField])}” stands in row ${before} already.`)
    seen.set(key, row)
    const found = byKey.get(key) ?? []
    if (found.length > 1)
      return fault(`${found.length} records have the ${label} “${shown(data[keyField])}”.`)
    const [known] = found
    if (!known) return { kind: 'new', row, data }
    const differences = Object.keys(data)
      .filter((name) => !same(data[name], known.data[name]))
      .map((name) => ({ field: name, before: shown(known.data[name]), after: shown(data[name]) }))
    return differences.length
      ? { kind: 'changed', row, id: known.id, data: { ...known.data, ...data }, differences }
      : { kind: 'untouched', row, id: known.id }
  })
}
