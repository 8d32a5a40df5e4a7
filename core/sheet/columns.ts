import { type Cell, cellText, type DateOrder, type ColumnType } from '../outline/cell.ts'
import { coerce, isEmail, readNumber } from '../outline/coerce.ts'
import { readMoment, type ReadMoment, readTime } from '../outline/read-date.ts'
import type { Field } from '../outline/field.ts'

/** What somebody has said of a column, which goes before what its cells tell. */
export interface Said {
  readonly type?: ColumnType | undefined
  readonly dateOrder?: DateOrder | undefined
}

/** A column of a sheet: what it holds, and how many of its cells say so. */
export interface Column {
  readonly name: string
  readonly type: ColumnType
  /** Cells of that type, filled cells, and the rows of the first filled cells that are not of that type. */
  readonly fitting: number
  readonly filled: number
  readonly odd: readonly number[]
  /** Which of day and month comes first where some dates are written with numbers; null where no cell tells. */
  readonly dateOrder: DateOrder | null
  /** Dates that can be read both ways, as examples; empty once the order is known. */
  readonly unsure: readonly string[]
  readonly samples: readonly string[]
  /** Of texts that say only a few things over and over: what they say, each once, whatever its case. */
  readonly values?: readonly string[] | undefined
  readonly said: Said
}

/** Rows named of those whose cell is not of the column's type. */
const ODD_KEPT = 500
const EXAMPLES = 3
/** A column says a few things over and over where it says no more than so many, each on average so often. */
const FEW = 12
const OFTEN = 3

const probe = (type: Field['type']): Field => ({ name: 'probe', label: '', type, required: false })

/** Share of the filled cells that must agree before a column counts as more than text. */
const AGREEMENT = 0.8

type Fits = (cell: Cell, text: string, order: DateOrder) => boolean

const tests: Readonly<Record<Exclude<ColumnType, 'text' | 'empty'>, Fits>> = {
  date: (cell, text, order) =>
    typeof cell === 'object' && cell !== null
      ? 'date' in cell || ('dateTime' in cell && isMidnight(cell.dateTime))
      : typeof cell === 'string' && mayBeDate(text) && isPlainDay(readMoment(text, order)),
  // With days alone among them, but not days alone: those are dates.
  'date and time': (cell, text, order) =>
    typeof cell === 'object' && cell !== null
      ? 'date' in cell || 'dateTime' in cell
      : typeof cell === 'string' && mayBeDate(text) && readMoment(text, order).ok,
  time: (cell, text) =>
    typeof cell === 'object' && cell !== null
      ? 'time' in cell
      : typeof cell === 'string' && /\d/.test(text) && readTime(text) !== null,
  percent: (cell, text) =>
    (typeof cell === 'object' && cell !== null && 'fraction' in cell) || /^-?\d+([.,]\d+)?\s*%$/.test(text),
  'yes/no': (cell, text) => typeof cell === 'boolean' || /^(yes|no|y|n|true|false)$/i.test(text),
  number: (cell, text) => typeof cell === 'number' || (readNumber(text) !== null && !isCode(text)),
  email: (_cell, text) => text.includes('@') && isEmail(text),
}
/** Digits that begin with a zero are a code, not a number: its zeros would be lost. */
const isCode = (text: string) => /^0\d/.test(text)

const isMidnight = (dateTime: string) => dateTime.endsWith('T00:00')
const isPlainDay = (read: ReadMoment) => read.ok && (read.time === null || read.time === '00:00')

/** Whole numbers are dates only where they have a date's eight digits. */
const mayBeDate = (text: string) => /\d/.test(text) && (!/^\d+$/.test(text) || /^(19|20)\d{6}$/.test(text))

/** The first that fits. What may be a number is one before it is a time of day: 6.30 is a price. */
const TESTED = ['date', 'date and time', 'percent', 'yes/no', 'number', 'time', 'email'] as const

/**
 * Types one column from its cells, top to bottom; `rows` are the sheet's numbers of their rows (without them, the cells'
 * places from 0). Numbers with leading zeros stay text: they are codes. What was `said` of the column goes before its cells.
 */
export function describeColumn(
  name: string,
  cells: readonly Cell[],
  { rows, said = {} }: { readonly rows?: readonly number[]; readonly said?: Said } = {},
): Column {
  // A sheet may have millions of cells: nothing is kept of each but its place, and its text is made when it is asked for.
  const filled: number[] = []
  for (let i = 0; i < cells.length; i++) {
    const cell = cells[i]!
    if (cell !== null && (typeof cell !== 'string' || cell.trim() !== '')) filled.push(i)
  }
  const textAt = (i: number): string => cellText(cells[i]!).trim()
  const samples = [...new Set(filled.slice(0, 200).map(textAt))].slice(0, EXAMPLES)
  const written = filled.flatMap((i) => (typeof cells[i] === 'string' ? [textAt(i)] : []))
  const told = said.dateOrder ?? tellingOrder(written)
  const plain = { name, filled: filled.length, samples, dateOrder: null, unsure: [], said }
  const order = told ?? 'month first'
  const fits = (type: ColumnType, i: number): boolean =>
    // Only what was written as text is read as text: a number or date is told by what it is.
    type === 'text' || type === 'empty'
      ? !isError(cells[i]!)
      : tests[type](cells[i]!, typeof cells[i] === 'string' ? cells[i].trim() : '', order)
  const described = (type: ColumnType): Column => {
    const odd = filled.filter((i) => !fits(type, i))
    return {
      ...plain,
      type,
      fitting: filled.length - odd.length,
      odd: odd.slice(0, ODD_KEPT).map((i) => rows?.[i] ?? i),
      dateOrder: hasDays(type) ? told : null,
      unsure: hasDays(type) && !told ? bothWays(written) : [],
      ...(type === 'text' ? { values: fewValues(filled, textAt) } : {}),
    }
  }
  /** Whether enough cells are of a type; of a long column that is mostly not, few are looked at. */
  const mostly = (type: Exclude<ColumnType, 'text' | 'empty'>): boolean => {
    let others = 0
    return filled.every((i) => fits(type, i) || filled.length - ++others >= filled.length * AGREEMENT)
  }
  if (said.type && said.type !== 'empty') return described(said.type)
  if (filled.length === 0) return { ...plain, type: 'empty', fitting: 0, odd: [] }
  // One code among numbers makes them all codes, as in a list of articles: 00417, 11250.
  const codes = written.some((text) => /^0\d+$/.test(text))
  for (const type of TESTED) if (!(codes && type === 'number') && mostly(type)) return described(type)
  return described('text')
}

/** What texts say where that is little, in the order in which it is first said; else nothing. */
function fewValues(filled: readonly number[], textAt: (at: number) => string): readonly string[] | undefined {
  const found = new Map<string, string>()
  for (const at of filled) {
    const text = textAt(at)
    const key = text.toLowerCase()
    if (!found.has(key)) found.set(key, text)
    if (found.size > FEW) return undefined
  }
  return found.size > 1 && filled.length >= found.size * OFTEN ? [...found.values()] : undefined
}

const hasDays = (type: ColumnType): boolean => type === 'date' || type === 'date and time'

const isError = (cell: Cell): boolean => typeof cell === 'object' && cell !== null && 'error' in cell

const byNumbers = /^(\d{1,2})[/.-](\d{1,2})[/.-]\d{2,4}(?![\d/.-])/

/** Decided by cells only one reading of which is a date, such as 27/3/2027; null where none is, or both kinds are. */
function tellingOrder(texts: readonly string[]): DateOrder | null {
  let [dayFirst, monthFirst] = [0, 0]
  for (const text of texts) {
    const parts = byNumbers.exec(text)
    if (!parts) continue
    if (Number(parts[1]) > 12 && Number(parts[2]) <= 12) dayFirst++
    if (Number(parts[2]) > 12 && Number(parts[1]) <= 12) monthFirst++
  }
  if (dayFirst === 0 && monthFirst === 0) return null
  return dayFirst > monthFirst * 9 ? 'day first' : monthFirst > dayFirst * 9 ? 'month first' : null
}

/** Examples of dates that are one day read one way and another the other way: 3/4/2027, not 4/4/2027. */
function bothWays(texts: readonly string[]): readonly string[] {
  const found = texts.filter((text) => {
    const parts = byNumbers.exec(text)
    return parts && Number(parts[1]) <= 12 && Number(parts[2]) <= 12 && parts[1] !== parts[2]
  })
  return [...new Set(found)].slice(0, EXAMPLES)
}

const fieldTypes = {
  number: 'number',
  percent: 'percent',
  date: 'date',
  time: 'time',
  'date and time': 'date and time',
  'yes/no': 'yes/no',
  email: 'email',
} as const

/** The field as which a column's cells are read; null where they are taken as they stand. */
export const fieldOfColumn = ({ type }: Column): Field | null =>
  type === 'text' || type === 'empty' ? null : probe(fieldTypes[type])

/**
 * What is wrong with a cell by its column's type; null where nothing is, and of a date that only the column's order
 * leaves open: that is asked once of the column.
 */
export function cellFault(column: Column, cell: Cell): string | null {
  const text = cellText(cell).trim()
  if (text === '') return null
  if (isError(cell)) return `The sheet has the error ${text} here.`
  if (column.type === 'text' || column.type === 'empty') return null
  if (tests[column.type](cell, text, column.dateOrder ?? 'month first')) return null
  const read = coerce(probe(fieldTypes[column.type]), cell, column.dateOrder ?? 'month first')
  return read.ok ? `“${text}” is not like the other cells of this column.` : read.problem
}

const nouns: Record<ColumnType, readonly [one: string, many: string]> = {
  text: ['text', 'texts'],
  number: ['number', 'numbers'],
  percent: ['percentage', 'percentages'],
  date: ['date', 'dates'],
  time: ['time of day', 'times of day'],
  'date and time': ['date and time', 'dates and times'],
  'yes/no': ['yes or no', 'yes or no'],
  email: ['email address', 'email addresses'],
  empty: ['empty', 'empty'],
}
const ROWS_TOLD = 4

/** "238 dates, 2 not: rows 17, 203". */
export function evidence(column: Column): string {
  if (column.filled === 0) return 'empty'
  const odd = column.filled - column.fitting
  const told = `${column.fitting} ${nouns[column.type][column.fitting === 1 ? 0 : 1]}`
  if (odd === 0) return told
  const rows = column.odd.slice(0, ROWS_TOLD).join(', ')
  return `${told}, ${odd} not: ${odd === 1 ? 'row' : 'rows'} ${rows}${odd > ROWS_TOLD ? ' …' : ''}`
}
