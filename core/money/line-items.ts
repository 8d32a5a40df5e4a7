import { Decimal } from 'decimal.js'
import { minorUnitDigits, type Rounding, roundMoney } from './currency.ts'

/** One priced line. Percentages in points: 12 is 12 %. */
export interface Line {
  readonly quantity: Decimal
  readonly price: Decimal
  readonly discountPercent: Decimal
  readonly taxPercent: Decimal
}

/** What is taken off the whole: so many percent of the lines' sum, or an amount. */
export type OverallDiscount = { readonly percent: Decimal } | { readonly amount: Decimal } | null

/** Tax of one rate. */
export interface TaxClass {
  readonly rate: Decimal
  readonly base: Decimal
  readonly tax: Decimal
}

/** The amounts of a priced list, rounded by its currency. */
export interface Totals {
  /** Each line's net amount, rounded: what stands in the table. */
  readonly amounts: readonly Decimal[]
  /** Sum of the amounts (EN 16931 BT-106). */
  readonly subtotal: Decimal
  readonly discount: Decimal
  /** Subtotal less discount (BT-109). */
  readonly net: Decimal
  /** Lowest rate first. */
  readonly taxes: readonly TaxClass[]
  readonly tax: Decimal
  /** Net and tax (BT-112). */
  readonly gross: Decimal
}

const HUNDRED = new Decimal(100)
const sum = (values: readonly Decimal[]): Decimal =>
  values.reduce((total, value) => total.plus(value), new Decimal(0))

/** What a line comes to, rounded as it is printed. */
export const lineAmount = (line: Line, currency: string, rounding: Rounding): Decimal =>
  roundMoney(
    line.quantity.times(line.price).times(HUNDRED.minus(line.discountPercent)).div(HUNDRED),
    currency,
    rounding,
  )

/**
 * The totals of priced lines: every figure is rounded once, where it is printed, and every total is the sum of printed
 * figures (EN 16931 BR-CO-10, -13, -14, -15, -17). A discount on the whole is shared over the tax classes by their
 * bases, so that the shares add up to it exactly.
 */
export function totalsOf(
  lines: readonly Line[],
  overall: OverallDiscount,
  currency: string,
  rounding: Rounding,
): Totals {
  const rounded = (amount: Decimal) => roundMoney(amount, currency, rounding)
  const amounts = lines.map((line) => lineAmount(line, currency, rounding))
  const subtotal = sum(amounts)
  const discount = !overall
    ? new Decimal(0)
    : rounded('percent' in overall ? subtotal.times(overall.percent).div(HUNDRED) : overall.amount)
  const bases = new Map<string, Decimal>()
  lines.forEach(({ taxPercent }, i) => {
    const rate = taxPercent.toFixed()
    bases.set(rate, (bases.get(rate) ?? new Decimal(0)).plus(amounts[i]!))
  })
  const rates = [...bases].sort(([a], [b]) => new Decimal(a).comparedTo(b))
  const shares = share(
    discount,
    rates.map(([, base]) => base),
    minorUnitDigits(currency),
  )
  const taxes = rates.map(([rate, whole], i): TaxClass => {
    const base = whole.minus(shares[i]!)
    return { rate: new Decimal(rate), base, tax: rounded(base.times(rate).div(HUNDRED)) }
  })
  const net = subtotal.minus(discount)
  const tax = sum(taxes.map((each) => each.tax))
  return { amounts, subtotal, discount, net, taxes, tax, gross: net.plus(tax) }
}

/**
 * Splits an amount in proportion to weights, in units of the last digit; what rounding leaves over goes to the largest
 * remainders first. The parts always add up to the amount. Where all weights are 0, the first part takes everything.
 */
export function share(amount: Decimal, weights: readonly Decimal[], digits: number): readonly Decimal[] {
  const total = sum(weights)
  if (weights.length === 0) return []
  if (total.isZero()) return weights.map((_, i) => (i === 0 ? amount : new Decimal(0)))
  const unit = new Decimal(10).pow(-digits)
  const exact = weights.map((weight) => amount.times(weight).div(total))
  const parts = exact.map((part) => part.toDecimalPlaces(digits, Decimal.ROUND_FLOOR))
  let left = amount.minus(sum(parts)).div(unit).round().toNumber()
  const order = exact
    .map((part, i) => ({ i, remainder: part.minus(parts[i]!) }))
    .sort((a, b) => b.remainder.comparedTo(a.remainder) || a.i - b.i)
  for (let at = 0; left > 0; at++, left--) {
    const { i } = order[at % order.length]!
    parts[i] = parts[i]!.plus(unit)
  }
  return parts
}
