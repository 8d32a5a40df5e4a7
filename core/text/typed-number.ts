import type { Language } from '../languages/language.ts'
import { number } from '../expression/values/value.ts'

// A number as people type it who speak a language: one rule for what signers fill in and for what forms ask.

/** A number as somebody typed it, or why it is none: `readings`, where it may be read in two ways. */
export type TypedNumber =
  /** In decimal notation, with as many digits behind the point as were typed. */
  | { readonly ok: true; readonly value: string }
  /** No number. */
  | { readonly ok: false; readonly readings: null }
  /** Two numbers, by the sign that may part thousands or begin the fraction: nobody guesses which was meant. */
  | { readonly ok: false; readonly readings: readonly [string, string] }

const LONGEST = 60
const SPACES = /[\s\u00a0\u2009\u202f'’]/g

/**
 * Reads a number by the language of the page (CLDR). In English a comma parts thousands and a point begins the fraction. In
 * Spanish and French the comma begins the fraction; a point does so too where people type it on a keypad, and parts thousands for
 * others: before exactly three digits it has both readings, and is refused with them.
 */
export function readTyped(text: string, language: Language): TypedNumber {
  const none: TypedNumber = { ok: false, readings: null }
  const bare = text.trim().replace('−', '-').replace(SPACES, '')
  const found = text.length <= LONGEST ? /^(-?)(\d[\d.,]*|[.,]\d+)$/.exec(bare) : null
  if (!found) return none
  const [, minus = '', digits = ''] = found
  const read = (whole: string, fraction: string): TypedNumber =>
    whole.length + fraction.length <= 40
      ? {
          ok: true,
          value: `${minus}${whole.replace(/^0+(?=\d)/, '') || '0'}${fraction ? `.${fraction}` : ''}`,
        }
      : none
  const signs = digits.replace(/\d/g, '')
  if (signs === '') return read(digits, '')
  const last = signs.at(-1)!
  const [whole, fraction] = [
    digits.slice(0, digits.lastIndexOf(last)),
    digits.slice(digits.lastIndexOf(last) + 1),
  ]
  const thousands = (part: string, sign: string) => new RegExp(`^\\d{1,3}(\\${sign}\\d{3})+$`).test(part)
  // The same sign again and again parts thousands; two signs: the last begins the fraction.
  if (signs.length > 1 && new Set(signs).size === 1)
    return thousands(digits, last) ? read(digits.replaceAll(last, ''), '') : none
  const asFraction = read(whole || '0', fraction)
  if (new Set(signs).size === 2) {
    const other = last === ',' ? '.' : ','
    const isSound = signs.indexOf(last) === signs.length - 1 && thousands(whole, other)
    return isSound && (language !== 'en' || last === '.') ? read(whole.replaceAll(other, ''), fraction) : none
  }
  const asThousands = thousands(digits, last) && whole !== '0' ? read(whole + fraction, '') : none
  if (language === 'en') return last === '.' ? asFraction : asThousands
  return last === '.' && asThousands.ok && asFraction.ok
    ? { ok: false, readings: [asThousands.value, asFraction.value] }
    : asFraction
}

/** A number in decimal notation as it stands in a document of a language (BCP 47): its decimal sign, nothing between thousands. */
export function shownIn(value: string, language: string): string {
  const sign =
    new Intl.NumberFormat(language, { minimumFractionDigits: 1 })
      .formatToParts(1.5)
      .find(({ type }) => type === 'decimal')?.value ?? '.'
  return value.replace('.', sign)
}

/** Both readings of what has two, as somebody of a language may write each so that it has one. */
export const describeReadings = (
  readings: readonly [string, string],
  language: Language,
): readonly [string, string] => [
  shownIn(number(readings[0]).toFixed(), language),
  shownIn(number(readings[1]).toFixed(), language),
]
