import { number } from '../expression/values/value.ts'
import { type Cell, cellText, type DateOrder } from './cell.ts'
import type { Field, PlainValue } from './field.ts'
import type { FieldType } from './field-kinds.ts'
import { readMoment, readTime } from './read-date.ts'

/** The value of a cell by its field’s type, or why it has none. */
export type Coerced =
  { readonly ok: true; readonly value: PlainValue | null } | { readonly ok: false; readonly problem: string }

const fail = (problem: string): Coerced => ({ ok: false, problem })
const done = (value: PlainValue | null): Coerced => ({ ok: true, value })

/**
 * Reads a cell as a field's value; an empty cell is null, whether or not the field is required.
 * `dateOrder` says how a text like 3/4/2027 is read; null refuses such text rather than guess.
 */
export function coerce(field: Field, cell: Cell, dateOrder: DateOrder | null): Coerced {
  if (cell !== null && typeof cell === 'object' && 'error' in cell)
    return fail(`The sheet has the error ${cell.error} here.`)
  const text = cellText(cell).trim()
  if (text === '') return done(null)
  return READ[field.type](cell, text, { field, dateOrder })
}

/** Reads a cell that is not empty; `text` is what people see of it, trimmed. */
type Read = (
  cell: Cell,
  text: string,
  more: { readonly field: Field; readonly dateOrder: DateOrder | null },
) => Coerced

const asWritten: Read = (_, text) => done(text)

/** How each type of field reads its cells. */
const READ: Readonly<Record<FieldType, Read>> = {
  text: asWritten,
  'long text': asWritten,
  number: amount,
  money: amount,
  percent,
  date: (cell, text, { dateOrder }) => date(cell, text, dateOrder),
  time: timeOfDay,
  'date and time': (cell, text, { dateOrder }) => dateAndTime(cell, text, dateOrder),
  'yes/no': yesNo,
  choice: (_, text, { field }) => choice(field, text),
  email: (_, text) => (isEmail(text) ? done(text) : fail(`“${text}” is not an email address.`)),
  phone: (_, text) => (isPhone(text) ? done(text) : fail(`“${text}” is not a phone number.`)),
  address: asWritten,
  list: () => fail('A list cannot stand in one cell.'),
}

/** Figures a number has at the most, with all that stands between and around them. */
const LONGEST_NUMBER = 80

/** Digits in threes, or in twos before the last three as they are written in India; or none grouped at all. */
const GROUPED = {
  ',': /^-?(\d{1,3}(,\d{3})+|\d{1,2}(,\d{2})+,\d{3}|\d*)$/,
  '.': /^-?(\d{1,3}(\.\d{3})+|\d*)$/,
} as const

/**
 * A number as people type it: currency signs, codes and spaces fall away, brackets mean minus. Where both a comma and a
 * point stand, the last one is the decimal sign; a single comma before exactly three digits separates thousands.
 */
export function readNumber(text: string): string | null {
  // Most cells that are no numbers are words; no code of a currency is longer than three letters (ISO 4217).
  if (text.length > LONGEST_NUMBER || /\p{L}{4}/u.test(text) || !/\d/.test(text)) return null
  const bare = text
    .replace(/\p{Sc}|\b[A-Z]{3}\b|\bRs\.?(?=\s*\d)/gu, '')
    .replace(/[\s'’]/g, '')
    .replace(/^\((.*)\)$/, '-$1')
    .replace(/^(.*)-$/, '-$1')
    .replace('−', '-')
  // Scientific notation, as programs write large numbers; the exponent is bounded as decimal128's is.
  const scientific = /^(-?\d{1,30}(?:\.\d{1,30})?)e([+-]?\d{1,4})$/i.exec(bare)
  if (scientific) return Math.abs(Number(scientific[2])) <= 30 ? number(bare).toFixed() : null
  const decimalSign =
    bare.includes(',') && (bare.lastIndexOf(',') > bare.lastIndexOf('.') ? !GROUPED[','].test(bare) : false)
      ? ','
      : '.'
  const [whole = '', fraction, ...more] = bare.split(decimalSign)
  const grouping = decimalSign === ',' ? '.' : ','
  if (more.length || !GROUPED[grouping].test(whole)) return null
  const digits = whole.replaceAll(grouping, '') + (fraction === undefined ? '' : `.${fraction}`)
  return /^-?(\d+(\.\d*)?|\.\d+)$/.test(digits) ? number(digits).toFixed() : null
}

function amount(cell: Cell, text: string): Coerced {
  if (typeof cell === 'number') return done(number(cell).toFixed())
  if (typeof cell === 'object' && cell && 'date' in cell) return fail(`“${text}” is a date, not an amount.`)
  if (/%$/.test(text)) return fail(`“${text}” is a percentage, not an amount.`)
  const read = readNumber(text)
  return read === null ? fail(`“${text}” is not a number.`) : done(read)
}

/** Points: 12, "12 %" and a cell formatted as 12 % are all 12. */
function percent(cell: Cell, text: string): Coerced {
  if (typeof cell === 'object' && cell && 'fraction' in cell)
    return done(number(cell.fraction).times(100).toFixed())
  const read =
    typeof cell === 'number'
      ? number(cell).toFixed()
      : readNumber(text.endsWith('%') ? text.slice(0, -1).trimEnd() : text)
  return read === null ? fail(`“${text}” is not a percentage.`) : done(read)
}

function date(cell: Cell, text: string, order: DateOrder | null): Coerced {
  if (typeof cell === 'object' && cell && 'date' in cell) return done(cell.date)
  if (typeof cell === 'object' && cell && 'dateTime' in cell) return done(cell.dateTime.slice(0, 10))
  if (typeof cell === 'number' && !/^(19|20)\d{6}$/.test(text))
    return fail(`${text} is a number, not a date: the cell has lost its date format.`)
  const read = readMoment(text, order)
  return read.ok ? done(read.date) : read
}

function timeOfDay(cell: Cell, text: string): Coerced {
  if (typeof cell === 'object' && cell && 'time' in cell) return done(cell.time)
  if (typeof cell === 'object' && cell && 'dateTime' in cell) return done(cell.dateTime.slice(11))
  if (typeof cell === 'number')
    return fail(`${text} is a number, not a time: the cell has lost its time format.`)
  const read = readTime(text)
  return read === null ? fail(`“${text.slice(0, 60)}” is not a time of day.`) : done(read)
}

/** A day without a time is its midnight. */
function dateAndTime(cell: Cell, text: string, order: DateOrder | null): Coerced {
  if (typeof cell === 'object' && cell && 'dateTime' in cell) return done(cell.dateTime)
  if (typeof cell === 'object' && cell && 'date' in cell) return done(`${cell.date}T00:00`)
  if (typeof cell === 'number')
    return fail(`${text} is a number, not a date and time: the cell has lost its format.`)
  const read = readMoment(text, order)
  return read.ok ? done(`${read.date}T${read.time ?? '00:00'}`) : read
}

const yes = new Set(['yes', 'y', 'true', 'x', '1', 'oui', 'sí', 'si'])
const no = new Set(['no', 'n', 'false', '0', '-', 'non'])

function yesNo(cell: Cell, text: string): Coerced {
  if (typeof cell === 'boolean') return done(cell)
  const word = text.toLowerCase()
  if (yes.has(word)) return done(true)
  return no.has(word) ? done(false) : fail(`“${text}” is neither yes nor no.`)
}

function choice(field: Field, text: string): Coerced {
  const found = field.choices?.find((option) => option.toLowerCase() === text.toLowerCase())
  return found === undefined ? fail(`“${text}” is none of: ${field.choices?.join(', ') ?? ''}.`) : done(found)
}

/** RFC 5321 lengths and the shape people use; whether a mailbox exists only sending can tell. */
export const isEmail = (text: string): boolean =>
  text.length <= 254 &&
  /^[^\s@"(),:;<>[\]\\]{1,64}@([\p{L}\p{N}]([\p{L}\p{N}-]{0,61}[\p{L}\p{N}])?\.)+\p{L}{2,63}$/u.test(text) &&
  !/\.\.|^\.|\.@/.test(text)

/** Seven to fifteen digits (ITU-T E.164 allows no more) with the signs people put between them, and an extension. */
export const isPhone = (text: string): boolean =>
  text.length <= 60 &&
  // eslint-disable-next-line regexp/no-super-linear-backtracking -- of sixty characters
  /^\+?[\d\s()./-]+(\s*(x|ext\.?)\s*\d{1,6})?$/i.test(text) &&
  /^\d{7,15}$/.test(text.replace(/(x|ext\.?)\s*\d+$/i, '').replace(/\D/g, ''))
