import { type FieldValue, isItems, type RecordData } from '../outline/field.ts'

const lengthOf = (value: FieldValue): number =>
  isItems(value)
    ? value.reduce(
        (sum, item) => sum + Object.values(item).reduce((inner, each) => inner + String(each).length, 0),
        0,
      )
    : String(value).length

/** The rows of a wording that are worth reading, by their numbers. */
export interface TellingRows {
  readonly typical: number
  readonly longest: number
}

/**
 * Of rows that get one wording, the two that are worth reading: the one in the middle by the length of what is filled in,
 * and the longest, in which something is likeliest not to fit.
 */
export function tellingRows(
  rows: readonly { readonly row: number; readonly data: RecordData }[],
): TellingRows | null {
  const sized = rows
    .map(({ row, data }) => ({
      row,
      size: Object.values(data).reduce((sum, value) => sum + lengthOf(value), 0),
    }))
    .sort((a, b) => a.size - b.size || a.row - b.row)
  if (sized.length === 0) return null
  return { typical: sized[Math.floor((sized.length - 1) / 2)]!.row, longest: sized.at(-1)!.row }
}
