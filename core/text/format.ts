import { formatsOf } from '../outline/field-kinds.ts'
import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { isoDateTime, isoTime } from '../calendar/times.ts'
import type { Field } from '../outline/field.ts'
import { isList, toText, type Value } from '../expression/values/value.ts'
import { minorUnitDigits } from '../money/currency.ts'
import { joined } from '../words/join.ts'
import { amountInWords, numberInWords } from '../words/words.ts'

/** The format of merge fields that name none: the field's own, else its type's first. */
export const defaultFormat = (field: Field): string =>
  field.format !== undefined && formatsOf(field.type).includes(field.format)
    ? field.format
    : formatsOf(field.type)[0]

const numberFormats = new Map<string, Intl.NumberFormat>()
const dateFormats = new Map<string, Intl.DateTimeFormat>()

/** A formatter made by `make` the first time its key is asked for: making one takes a thousand times as long as using it. */
function once<T>(made: Map<string, T>, key: string, make: () => T): T {
  const known = made.get(key)
  if (known !== undefined) return known
  const found = make()
  made.set(key, found)
  return found
}

function numberFormat(locale: string, options: Intl.NumberFormatOptions): Intl.NumberFormat {
  const { style, currency, currencyDisplay, minimumFractionDigits, maximumFractionDigits } = options
  const key = `${locale} ${style} ${currency} ${currencyDisplay} ${minimumFractionDigits} ${maximumFractionDigits}`
  return once(
    numberFormats,
    key,
    () =>
      new Intl.NumberFormat(locale, { ...options, roundingMode: 'halfExpand' } as Intl.NumberFormatOptions),
  )
}

const dateFormat = (locale: string, format: string): Intl.DateTimeFormat =>
  once(
    dateFormats,
    `${locale} ${format}`,
    () => new Intl.DateTimeFormat(locale, { ...dateOptions[format], timeZone: 'UTC', calendar: 'gregory' }),
  )

/** Exact: the digits go in as text, never through a binary number. */
const showNumber = (value: Decimal, locale: string, options: Intl.NumberFormatOptions): string =>
  numberFormat(locale, options).format(value.toFixed() as Intl.StringNumericLiteral)

const dateOptions: Record<string, Intl.DateTimeFormatOptions> = {
  long: { dateStyle: 'long' },
  medium: { dateStyle: 'medium' },
  numeric: { year: 'numeric', month: '2-digit', day: '2-digit' },
  'day and month': { month: 'long', day: 'numeric' },
  full: { dateStyle: 'full' },
  'month and year': { month: 'long', year: 'numeric' },
  year: { year: 'numeric' },
  weekday: { weekday: 'long' },
}

const timeOptions: Record<string, Intl.DateTimeFormatOptions> = {
  short: { timeStyle: 'short' },
  'with seconds': { timeStyle: 'medium' },
}

function showTime(value: Temporal.PlainTime, format: string, locale: string): string {
  const options = timeOptions[format]
  if (!options) return isoTime(value)
  return once(
    dateFormats,
    `${locale} time ${format}`,
    () => new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' }),
  ).format(Date.UTC(2000, 0, 1, value.hour, value.minute, value.second))
}

const momentOptions: Record<string, Intl.DateTimeFormatOptions> = {
  long: { dateStyle: 'long', timeStyle: 'short' },
  medium: { dateStyle: 'medium', timeStyle: 'short' },
  numeric: { year: 'numeric', month: '2-digit', day: '2-digit', hour: 'numeric', minute: '2-digit' },
  'date alone': { dateStyle: 'long' },
  'time alone': { timeStyle: 'short' },
}

function showDateTime(value: Temporal.PlainDateTime, format: string, locale: string): string {
  const options = momentOptions[format]
  if (!options) return isoDateTime(value)
  return once(
    dateFormats,
    `${locale} moment ${format}`,
    () => new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC', calendar: 'gregory' }),
  ).format(Date.UTC(value.year, value.month - 1, value.day, value.hour, value.minute, value.second))
}

function showMoney(value: Decimal, currency: string, format: string, locale: string): string {
  const places = minorUnitDigits(currency)
  const digits = { minimumFractionDigits: places, maximumFractionDigits: places }
  const plain = () =>
    showNumber(value, locale, {
      style: 'currency',
      currency,
      currencyDisplay: format === 'with code' ? 'code' : 'symbol',
      ...digits,
    })
  if (format === 'amount only') return showNumber(value, locale, digits)
  if (!format.startsWith('in words')) return plain()
  const words = amountInWords(value, currency, locale) ?? plain()
  return format === 'in words' ? words : `${words} (${plain()})`
}

function showPlainNumber(value: Decimal, format: string, locale: string): string {
  const places = { whole: [0, 0], 'one decimal': [1, 1], 'two decimals': [2, 2] }[format] ?? [0, 10]
  const figure = showNumber(value, locale, {
    minimumFractionDigits: places[0]!,
    maximumFractionDigits: places[1]!,
  })
  if (!format.startsWith('in words')) return figure
  const words = numberInWords(value, locale) ?? figure
  return format === 'in words' || words === figure ? words : `${words} (${figure})`
}

const firstCapitals = (text: string, locale: string) =>
  text
    .toLocaleLowerCase(locale)
    .replace(/(^|[\s-])(\p{L})/gu, (_, gap: string, letter: string) => gap + letter.toLocaleUpperCase(locale))

function showText(text: string, format: string, locale: string): string {
  switch (format) {
    case 'capitals':
      return text.toLocaleUpperCase(locale)
    case 'small letters':
      return text.toLocaleLowerCase(locale)
    case 'first letters capital':
      return firstCapitals(text, locale)
    case 'one line':
      return text
        .split(/[\r\n]+/)
        .map((line) => line.trim())
        .join(', ')
    default:
      return text
  }
}

const yesNoWords: Record<string, readonly [string, string]> = {
  en: ['yes', 'no'],
  es: ['sí', 'no'],
  fr: ['oui', 'non'],
}

/**
 * A value as a reader of `locale` (BCP 47) expects it. Money is rounded half up to its currency's digits (ISO 4217).
 * Null for a value that is not there. An unknown format falls back to the field's default.
 */
export function formatValue(
  field: Field,
  value: Value,
  format: string | null,
  locale: string,
): string | null {
  if (value === null) return null
  const known = formatsOf(field.type)
  const chosen = format !== null && known.includes(format) ? format : defaultFormat(field)
  if (value instanceof Decimal) {
    if (field.type === 'money') return showMoney(value, field.currency ?? 'USD', chosen, locale)
    if (field.type !== 'percent') return showPlainNumber(value, chosen, locale)
    if (chosen === 'in words') return numberInWords(value, locale) ?? showPlainNumber(value, 'number', locale)
    return chosen === 'points'
      ? showNumber(value, locale, { maximumFractionDigits: 4 })
      : showNumber(value.div(100), locale, { style: 'percent', maximumFractionDigits: 4 })
  }
  if (value instanceof Temporal.PlainDate) {
    if (!dateOptions[chosen]) return value.toString()
    return dateFormat(locale, chosen).format(Date.UTC(value.year, value.month - 1, value.day))
  }
  if (value instanceof Temporal.PlainTime) return showTime(value, chosen, locale)
  if (value instanceof Temporal.PlainDateTime) return showDateTime(value, chosen, locale)
  if (typeof value === 'boolean') {
    if (chosen === 'tick') return value ? '☒' : '☐'
    return (yesNoWords[locale.split('-')[0]!] ?? yesNoWords['en']!)[value ? 0 : 1]
  }
  if (isList(value)) return joined(value.map(toText), 'conjunction', locale)
  return showText(toText(value), chosen, locale)
}
