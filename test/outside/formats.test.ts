import type { FieldType } from '#core/outline/field-kinds.ts'
import { createRequire } from 'node:module'
import codes from 'currency-codes'
import { expect } from 'chai'
import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { ToWords } from 'to-words'
import { minorUnitDigits } from '#core/money/currency.ts'
import { formatValue } from '#core/text/format.ts'
import { numberInWords } from '#core/words/words.ts'
import type { Field } from '#core/outline/field.ts'

const require = createRequire(import.meta.url)
// What templates can be written in and the ways they write figures: point and comma, blanks and apostrophes between
// thousands, day and month in either order.
const LOCALES = ['en', 'en-GB', 'es', 'fr', 'de'] as const

interface Numbers {
  readonly symbols: { readonly decimal: string; readonly group: string; readonly minusSign: string }
  readonly pattern: string
  readonly currency: string
  readonly percent: string
}

/** Patterns of the Unicode CLDR, as its own data packages give them. */
function numbersOf(locale: string): Numbers {
  const { main } = require(`cldr-numbers-full/main/${locale}/numbers.json`) as {
    main: Record<string, { numbers: Record<string, never> }>
  }
  const numbers = main[locale]!.numbers as unknown as Record<string, Record<string, string>>
  return {
    symbols: numbers['symbols-numberSystem-latn'] as unknown as Numbers['symbols'],
    pattern: numbers['decimalFormats-numberSystem-latn']!['standard']!,
    currency: numbers['currencyFormats-numberSystem-latn']!['standard']!,
    percent: numbers['percentFormats-numberSystem-latn']!['standard']!,
  }
}

/** A figure written by a CLDR number pattern (UTS 35, part 3): grouping, decimals and where the sign stands. */
function byPattern(value: string, pattern: string, { symbols }: Numbers, sign: string): string {
  const [whole = '', fraction] = value.split('.')
  const groups = whole.replace(/\B(?=(\d{3})+$)/g, symbols.group)
  // Spanish writes four digits together (minimumGroupingDigits 2).
  const grouped = symbols.group === '.' && whole.length === 4 && pattern.includes('es') ? whole : groups
  const figure = fraction === undefined ? grouped : `${grouped}${symbols.decimal}${fraction}`
  return pattern
    .split(';')[0]!
    .replace(/[#0][#0,.]*/, figure)
    .replace('¤', sign)
}

const field = (type: FieldType, more: Partial<Field> = {}): Field => ({
  name: 'x',
  label: 'X',
  type,
  required: true,
  ...more,
})
const plain = (text: string | null) => text?.replace(/[\u00a0\u202f]/g, ' ')

describe('figures as the Unicode CLDR writes them', () => {
  for (const locale of LOCALES) {
    const cldr = numbersOf(locale)
    it(`${locale}: numbers, money and percent`, () => {
      const number = (value: string) => plain(formatValue(field('number'), new Decimal(value), null, locale))
      expect(number('1234567.89')).to.equal(plain(byPattern('1234567.89', cldr.pattern, cldr, '')))
      expect(number('-12.5')).to.equal(
        plain(`${cldr.symbols.minusSign}${byPattern('12.5', cldr.pattern, cldr, '')}`),
      )
      const money = plain(
        formatValue(field('money', { currency: 'EUR' }), new Decimal('78200.5'), null, locale),
      )
      expect(money).to.equal(plain(byPattern('78200.50', cldr.currency, cldr, '€')))
      const percent = plain(formatValue(field('percent'), new Decimal('12'), null, locale))
      expect(percent).to.equal(plain(byPattern('12', cldr.percent, cldr, '')))
    })

    it(`${locale}: dates in their four lengths`, () => {
      const { main } = require(`cldr-dates-full/main/${locale}/ca-gregorian.json`) as {
        main: Record<string, { dates: { calendars: { gregorian: never } } }>
      }
      const gregorian = main[locale]!.dates.calendars.gregorian as unknown as {
        dateFormats: Record<string, string>
        months: { format: { wide: Record<string, string>; abbreviated: Record<string, string> } }
        days: { format: { wide: Record<string, string> } }
      }
      const { months, days, dateFormats } = gregorian
      // The twenty-eighth of March 2027 is a Sunday (from memory; ISO 8601 week 12, day 7).
      const parts: Record<string, string> = {
        EEEE: days.format.wide['sun']!,
        d: '28',
        dd: '28',
        M: '3',
        MM: '03',
        MMM: months.format.abbreviated['3']!,
        MMMM: months.format.wide['3']!,
        y: '2027',
        yy: '27',
      }
      const expected = (length: string) =>
        dateFormats[length]!.split(/('[^']*')/)
          .map((part) =>
            part.startsWith("'")
              ? part.slice(1, -1)
              : part.replace(/[a-zA-Z]+/g, (letters) => parts[letters] ?? letters),
          )
          .join('')
      const day = Temporal.PlainDate.from('2027-03-28')
      const ours = (format: string) => plain(formatValue(field('date'), day, format, locale))
      expect(ours('full')).to.equal(plain(expected('full')))
      expect(ours('long')).to.equal(plain(expected('long')))
      expect(ours('medium')).to.equal(plain(expected('medium')))
    })
  }
})

describe('digits of currencies, against ISO 4217 as the package currency-codes has it', () => {
  it('agree for every currency in use', () => {
    // Codes that are no money in use: metals, funds and testing. Their minor unit is "not applicable" (ISO 4217).
    const odd = codes.codes().filter((code) => {
      const found = codes.code(code)
      return (
        found &&
        !/^X|^(CHE|CHW|COU|CLF|UYW|UYI|MXV|USN|BOV)$/.test(code) &&
        minorUnitDigits(code) !== found.digits
      )
    })
    expect(odd).to.deep.equal([])
  })
})

describe('numbers in words, against the package to-words', () => {
  const bare = (text: string) =>
    text
      .toLowerCase()
      .replaceAll(/[,-]/g, ' ')
      .replaceAll(/\band\b/g, ' ')
      .replaceAll(/\s+/g, ' ')
      .trim()
  const values = [
    0, 1, 7, 10, 11, 15, 16, 20, 21, 31, 70, 71, 80, 81, 90, 91, 99, 100, 101, 110, 199, 200, 201, 999, 1000,
    1001, 1100, 1999, 2000, 10_000, 21_000, 78_200, 100_000, 121_031, 999_999, 1_000_000, 2_000_001,
  ]
  // Where the reference is wrong by the rules of the Real Academia Española (Ortografía 2010, "veintiún mil", "un millón").
  const known: Record<string, string> = {
    'es 21000': 'veintiún mil',
    'es 121031': 'ciento veintiún mil treinta y uno',
    'es 1000000': 'un millón',
  }
  for (const [language, locale] of [
    ['en', 'en-US'],
    ['fr', 'fr-FR'],
    ['es', 'es-ES'],
  ] as const) {
    it(`${language}: over the edges of its number words`, () => {
      const reference = new ToWords({ localeCode: locale })
      const differing = values.flatMap((value) => {
        const [ours, theirs] = [
          bare(numberInWords(new Decimal(value), language)!),
          bare(reference.convert(value)),
        ]
        return ours === (known[`${language} ${value}`] ?? theirs) ? [] : [`${value}: ${ours} / ${theirs}`]
      })
      expect(differing).to.deep.equal([])
    })
  }
})
