import { isEmail, readNumber, coerce } from '../outline/coerce.ts'
import type { Field } from '../outline/field.ts'
import { cellText } from './cell.ts'
import type { Cell, DateOrder } from './cell.ts'

export type ColumnType = 'text' | 'number' | 'percent' | 'date' | 'yes/no' | 'email' | 'empty'

/** A column of a sheet: what it holds, and how many of its cells say so. */
export interface Column {
  readonly name: string
  readonly type: ColumnType
  /** Cells of that type, filled cells, and the first filled cells that are not of that type (rows counted from 0). */
  readonly fitting: number
  readonly filled: number
  readonly odd: readonly number[]
  /** Which of day and month comes first where some dates are written with numbers; null where no cell tells. */
  readonly dateOrder: DateOrder | null
  readonly samples: readonly string[]
}

const ODD_KEPT = 20

const probe = (type: Field['type']): Field => ({ name: 'probe', label: '', type, required: false })
const dateProbe = probe('date')

/** Share of the filled cells that must agree before a column counts as more than text. */
const AGREEMENT = 0.8

const tests: readonly (readonly [ColumnType, (cell: Cell, text: string, order: DateOrder) => boolean])[] = [
  ['date', (cell, _text, order) => typeof cell !== 'number' && coerce(dateProbe, cell, order).ok],
  [
    'percent',
    (cell, text) =>
      (typeof cell === 'object' && cell !== null && 'fraction' in cell) || /^-?\d+([.,]\d+)?\s*%$/.test(text),
  ],
  ['yes/no', (cell, text) => typeof cell === 'boolean' || /^(yes|no|y|n|true|false)$/i.test(text)],
  ['number', (cell, text) => typeof cell === 'number' || (readNumber(text) !== null && !/^0\d/.test(text))],
  ['email', (_cell, text) => isEmail(text)],
]

/** Types one column from its cells, top to bottom. Numbers with leading zeros stay text: they are codes. */
export function describeColumn(name: string, cells: readonly Cell[]): Column {
  const filled = cells
    .map((cell, row) => ({ cell, row, text: cellText(cell).trim() }))
    .filter(({ text }) => text !== '')
  const samples = [...new Set(filled.slice(0, 200).map(({ text }) => text))].slice(0, 3)
  const dateOrder = tellingOrder(filled.map(({ text }) => text))
  const plain = { name, filled: filled.length, samples, dateOrder: null }
  if (filled.length === 0) return { ...plain, type: 'empty', fitting: 0, odd: [] }
  for (const [type, test] of tests) {
    const fits = filled.map(({ cell, text }) => test(cell, text, dateOrder ?? 'month first'))
    const fitting = fits.filter(Boolean).length
    if (fitting < filled.length * AGREEMENT) continue
    const odd = filled
      .filter((_, i) => !fits[i])
      .map(({ row }) => row)
      .slice(0, ODD_KEPT)
    return { ...plain, type, fitting, odd, dateOrder: type === 'date' ? dateOrder : null }
  }
  return { ...plain, type: 'text', fitting: filled.length, odd: [] }
}

/** Decided by cells only one reading of which is a date, such as 27/3/2027; null where none is, or both kinds are. */
function tellingOrder(texts: readonly string[]): DateOrder | null {
  let [dayFirst, monthFirst] = [0, 0]
  for (const text of texts) {
    const parts = /^(\d{1,2})[/.-](\d{1,2})[/.-]\d{2,4}$/.exec(text)
    if (!parts) continue
    if (Number(parts[1]) > 12 && Number(parts[2]) <= 12) dayFirst++
    if (Number(parts[2]) > 12 && Number(parts[1]) <= 12) monthFirst++
  }
  if (dayFirst === 0 && monthFirst === 0) return null
  return dayFirst > monthFirst * 9 ? 'day first' : monthFirst > dayFirst * 9 ? 'month first' : null
}
