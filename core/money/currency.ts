import { Decimal } from 'decimal.js'

// ISO 4217, list one: currencies whose minor unit is not a hundredth. Not from the runtime: CLDR gives fewer digits to
// some currencies (such as IDR) than ISO 4217 does.
const digits: ReadonlyMap<string, number> = new Map([
  ...'BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF'
    .split(' ')
    .map((code) => [code, 0] as const),
  ...'BHD IQD JOD KWD LYD OMR TND'.split(' ').map((code) => [code, 3] as const),
  ...'CLF UYW'.split(' ').map((code) => [code, 4] as const),
])

/** Decimals of a currency's minor unit by ISO 4217; 2 for a code that is not known. */
export const minorUnitDigits = (currency: string): number => digits.get(currency) ?? 2

/** Ties away from zero, or to the even digit (IEEE 754-2008 roundTiesToEven). */
export const ROUNDINGS = ['half up', 'half even'] as const
export type Rounding = (typeof ROUNDINGS)[number]

const modes: Record<Rounding, Decimal.Rounding> = {
  'half up': Decimal.ROUND_HALF_UP,
  'half even': Decimal.ROUND_HALF_EVEN,
}

/** An amount rounded to its currency's minor unit. */
export const roundMoney = (amount: Decimal, currency: string, rounding: Rounding): Decimal =>
  amount.toDecimalPlaces(minorUnitDigits(currency), modes[rounding])
