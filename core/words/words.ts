import { Decimal } from 'decimal.js'
import { toCardinal as german } from 'n2words/de-DE'
import { toCardinal as english } from 'n2words/en-US'
import { toCardinal as spanish } from 'n2words/es-ES'
import { toCardinal as french } from 'n2words/fr-FR'
import { minorUnitDigits } from '../money/currency.ts'

type Cardinal = (value: bigint) => string

// What the library's Spanish leaves out: accents, and the short form before "mil" (RAE, Ortografía 2010).
const spanishCorrected = (words: string): string =>
  words
    .replace(/dieciseis/g, 'dieciséis')
    .replace(/veintidos/g, 'veintidós')
    .replace(/veintitres/g, 'veintitrés')
    .replace(/veintiseis/g, 'veintiséis')
    .replace(/veintiuno (?=mil)/g, 'veintiún ')
    .replace(/\buno (?=mil)/g, 'un ')

const MILLION = 1_000_000n

/** "Uno" before a noun is "un", and "veintiuno" is "veintiún" (RAE, Ortografía 2010). */
const beforeNoun = (words: string): string => words.replace(/veintiuno$/, 'veintiún').replace(/\buno$/, 'un')

/**
 * Spanish by the long scale: a thousand million has no word of its own ("mil millones"), a billón is a million million. The library
 * is asked for what is below a million.
 */
function spanishCardinal(value: bigint): string {
  const below = (part: bigint) => spanishCorrected(spanish(part))
  if (value < MILLION) return below(value)
  const counted = (part: bigint, one: string, many: string) =>
    part === 0n ? [] : [part === 1n ? `un ${one}` : `${beforeNoun(below(part))} ${many}`]
  const rest = value % MILLION
  return [
    ...counted(value / (MILLION * MILLION), 'billón', 'billones'),
    ...counted((value / MILLION) % MILLION, 'millón', 'millones'),
    ...(rest === 0n ? [] : [below(rest)]),
  ].join(' ')
}

const cardinals: Record<string, Cardinal> = {
  en: (value) => english(value),
  es: spanishCardinal,
  fr: (value) => french(value),
  de: (value) => german(value),
}

const minus: Record<string, string> = { en: 'minus', es: 'menos', fr: 'moins', de: 'minus' }

const spoken = (language: string): string => {
  const tag = language.split('-')[0]!.toLowerCase()
  return tag in cardinals ? tag : 'en'
}

/** Largest whole number said in words. */
const MOST = new Decimal('1e15')

/** A whole number in words, in the language (en, es, fr, de; another is said in English). Null for fractions and beyond 10^15. */
export function numberInWords(value: Decimal, language: string): string | null {
  if (!value.isInteger() || value.abs().gte(MOST)) return null
  const tag = spoken(language)
  const words = cardinals[tag]!(BigInt(value.abs().toFixed()))
  return value.isNegative() && !value.isZero() ? `${minus[tag]!} ${words}` : words
}

const names = new Map<string, Intl.NumberFormat>()

/** The currency's name as its number asks for, by CLDR: "US dollars", "euro". */
function currencyName(amount: bigint, currency: string, tag: string): string | null {
  const key = `${tag} ${currency}`
  try {
    const format =
      names.get(key) ??
      new Intl.NumberFormat(tag, {
        style: 'currency',
        currency,
        currencyDisplay: 'name',
        maximumFractionDigits: 0,
      })
    names.set(key, format)
    return format
      .formatToParts(amount)
      .filter(({ type }) => type === 'currency')
      .map(({ value }) => value)
      .join('')
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}

/** A number as it agrees with the noun it counts, in Spanish: "doscientas libras", "veintiún euros"; elsewhere as it is. */
function agreeing(words: string, noun: string, tag: string): string {
  if (tag !== 'es') return words
  // Names of currencies end in -a or -as where they are feminine.
  if (!/^\S+as?(?:\s|$)/.test(noun)) return beforeNoun(words)
  return words
    .replace(/cientos(?= |$)/g, 'cientas')
    .replace(/quinientos(?= |$)/g, 'quinientas')
    .replace(/veintiuno$/, 'veintiuna')
    .replace(/(^| )uno$/, '$1una')
    .replace(/veintiún mil(?= |$)/g, 'veintiuna mil')
}

/** A number with what it counts: a million asks for "de" in Spanish and French ("un millón de yenes", "un million d’euros"). */
function counting(words: string, noun: string, tag: string): string {
  if (tag === 'es' && /(?:millón|millones|billón|billones)$/.test(words)) return `${words} de ${noun}`
  if (tag === 'fr' && /(?:million|milliard|billion|billiard)s?$/.test(words))
    return /^[aeiouhéèê]/i.test(noun) ? `${words} d’${noun}` : `${words} de ${noun}`
  return `${words} ${noun}`
}

const and: Record<string, string> = { en: 'and', es: 'con', fr: 'et', de: 'und' }

/**
 * An amount in words, rounded half up to the currency's minor unit, which is said as a fraction as on a cheque:
 * "seventy-eight thousand two hundred and 50/100 US dollars". Common practice.
 */
export function amountInWords(amount: Decimal, currency: string, language: string): string | null {
  const digits = minorUnitDigits(currency)
  const rounded = amount.toDecimalPlaces(digits, Decimal.ROUND_HALF_UP)
  const whole = rounded.trunc()
  const tag = spoken(language)
  const name = currencyName(BigInt(whole.abs().toFixed()), currency, tag)
  const words = numberInWords(whole, tag)
  if (words === null || name === null) return null
  const counted = agreeing(words, name, tag)
  const signed =
    rounded.isNegative() && whole.isZero() && !rounded.isZero() ? `${minus[tag]!} ${counted}` : counted
  if (digits === 0) return counting(signed, name, tag)
  const unit = new Decimal(10).pow(digits)
  const fraction = rounded.minus(whole).abs().times(unit).toFixed(0).padStart(digits, '0')
  return `${signed} ${and[tag]!} ${fraction}/${unit.toFixed()} ${name}`
}
