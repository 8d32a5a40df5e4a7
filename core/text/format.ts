import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import type { Field, FieldType } from '../outline/field.ts'
import type { Value } from '../expression/value.ts'
import { toText } from '../expression/value.ts'

/** Display formats by kind of field, the default first. The format belongs to the merge field, never to the source. */
export const DISPLAY_FORMATS = {
  text: ['as written', 'capitals'],
  'long text': ['as written'],
  number: ['number', 'whole', 'two decimals'],
  money: ['with sign', 'with code', 'amount only'],
  percent: ['percent', 'points'],
  date: ['long', 'medium', 'numeric', 'day and month', 'ISO'],
  'yes/no': ['yes or no'],
  choice: ['as written', 'capitals'],
  email: ['as written'],
} as const satisfies Record<FieldType, readonly string[]>

export const defaultFormat = (type: FieldType): string => DISPLAY_FORMATS[type][0]

const formatters = new Map<string, Intl.NumberFormat | Intl.DateTimeFormat>()

function numberFormat(locale: string, options: Intl.NumberFormatOptions): Intl.NumberFormat {
  const key = `n${locale}${JSON.stringify(options)}`
  const made =
    formatters.get(key) ??
    new Intl.NumberFormat(locale, { ...options, roundingMode: 'halfExpand' } as Intl.NumberFormatOptions)
  formatters.set(key, made)
  return made as Intl.NumberFormat
}

function dateFormat(locale: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `d${locale}${JSON.stringify(options)}`
  const made =
    formatters.get(key) ??
    new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC', calendar: 'gregory' })
  formatters.set(key, made)
  return made as Intl.DateTimeFormat
}

/** Exact: the digits go in as text, never through a binary number. */
const showNumber = (value: Decimal, locale: string, options: Intl.NumberFormatOptions): string =>
  numberFormat(locale, options).format(value.toFixed() as Intl.StringNumericLiteral)

const dateOptions: Record<string, Intl.DateTimeFormatOptions> = {
  long: { dateStyle: 'long' },
  medium: { dateStyle: 'medium' },
  numeric: { year: 'numeric', month: '2-digit', day: '2-digit' },
  'day and month': { month: 'long', day: 'numeric' },
}

function showMoney(value: Decimal, currency: string, format: string, locale: string): string {
  if (format === 'amount only') {
    const digits = numberFormat(locale, { style: 'currency', currency }).resolvedOptions()
      .maximumFractionDigits
    return showNumber(value, locale, { minimumFractionDigits: digits!, maximumFractionDigits: digits! })
  }
  return showNumber(value, locale, {
    style: 'currency',
    currency,
    currencyDisplay: format === 'with code' ? 'code' : 'symbol',
  })
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
  const known = DISPLAY_FORMATS[field.type] as readonly string[]
  const chosen = format !== null && known.includes(format) ? format : known[0]!
  if (value instanceof Decimal) {
    if (field.type === 'money') return showMoney(value, field.currency ?? 'USD', chosen, locale)
    if (field.type === 'percent')
      return chosen === 'points'
        ? showNumber(value, locale, { maximumFractionDigits: 4 })
        : showNumber(value.div(100), locale, { style: 'percent', maximumFractionDigits: 4 })
    const digits = { whole: [0, 0], 'two decimals': [2, 2] }[chosen] ?? [0, 10]
    return showNumber(value, locale, { minimumFractionDigits: digits[0]!, maximumFractionDigits: digits[1]! })
  }
  if (value instanceof Temporal.PlainDate) {
    const options = dateOptions[chosen]
    if (!options) return value.toString()
    return dateFormat(locale, options).format(Date.UTC(value.year, value.month - 1, value.day))
  }
  if (typeof value === 'boolean')
    return (yesNoWords[locale.split('-')[0]!] ?? yesNoWords['en']!)[value ? 0 : 1]
  const text = toText(value)
  return chosen === 'capitals' ? text.toLocaleUpperCase(locale) : text
}
