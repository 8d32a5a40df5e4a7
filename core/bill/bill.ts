import { Decimal } from 'decimal.js'
import type { BillFields } from '../next-steps/steps.ts'
import type { TaxScheme } from '../organisation/organisation.ts'
import { taxesList, totalsGroup } from '../merge/fields.ts'
import { currencyOf, completeRecord, LINE_AMOUNT } from '../outline/record.ts'
import type { ReadyTemplate } from '../merge/prepare.ts'
import { minorUnitDigits } from '../money/currency.ts'
import { type Field, type FieldValue, isItems, type ItemData, type RecordData } from '../outline/field.ts'

/** Amounts and percentages are decimal text; business terms (BT, BG) are those of EN 16931-1:2017. */
export interface Bill {
  /** BT-1, BT-2 and BT-9: number, day of issue and day to pay, ISO 8601. */
  readonly number: string
  readonly issued: string
  readonly due: string | null
  /** BT-5, ISO 4217. */
  readonly currency: string
  readonly seller: Seller
  readonly buyer: BillParty
  /** BG-25. */
  readonly lines: readonly BillLine[]
  /** BT-107: what is taken off the whole; shared over the tax classes as BG-20. */
  readonly allowance: string
  readonly allowances: readonly { readonly amount: string; readonly rate: string }[]
  /** BG-23, lowest rate first. */
  readonly taxes: readonly { readonly base: string; readonly tax: string; readonly rate: string }[]
  /** BT-106, BT-109, BT-110, BT-112. */
  readonly subtotal: string
  readonly net: string
  readonly tax: string
  readonly gross: string
}

/** Who sells or buys, as a bill names them (EN 16931). */
export interface BillParty {
  readonly name: string
  /** A line each. */
  readonly address: readonly string[]
  /** ISO 3166-1 alpha-2. */
  readonly country: string
}

/** The seller, with what only a seller has to say. */
export interface Seller extends BillParty {
  /** BT-37 and BT-38; empty: they stand in the address alone. */
  readonly city: string
  readonly postCode: string
  /** BT-31, its number with the tax office; empty: it has none. */
  readonly taxNumber: string
  /** UN/CEFACT 5153. */
  readonly taxScheme: TaxScheme
}

/**
 * Whether a bill is one by EN 16931, which knows value added tax alone: where something is taxed the seller has a number for it
 * (BR-S-02), and is known by a number in any case (BR-CO-26). Others are plain UBL.
 */
export const isByEn16931 = ({ seller }: Bill): boolean =>
  seller.taxScheme === 'VAT' && seller.taxNumber !== ''

/** One line of a bill (BG-25). Amounts, quantities and rates are plain decimals. */
export interface BillLine {
  readonly name: string
  readonly quantity: string
  /** Net price of one, before the line's discount. */
  readonly price: string
  readonly discount: { readonly amount: string; readonly percent: string; readonly base: string } | null
  readonly amount: string
  readonly rate: string
}

/** A bill, or what keeps the document from being one. */
export type ReadBill =
  { readonly ok: true; readonly bill: Bill } | { readonly ok: false; readonly problem: string }

const text = (value: FieldValue | undefined): string => (typeof value === 'string' ? value : '')

/** The bill that a document is, by its list of priced lines. What keeps it from being one is told. */
export function billOf(
  ready: ReadyTemplate,
  data: RecordData,
  fields: BillFields,
  more: Pick<Bill, 'number' | 'issued'> & { readonly seller: Omit<Seller, 'country'> },
): ReadBill {
  const list = ready.content.outline.find(({ type, lineItems }) => type === 'list' && lineItems)
  if (!list) return { ok: false, problem: `“${ready.content.title}” has no list of priced lines.` }
  const whole = completeRecord(ready.outline, data).data
  const currency = currencyOf(list)
  const printed = (value: FieldValue | undefined) =>
    text(value) === '' ? '' : new Decimal(text(value)).toFixed(minorUnitDigits(currency))
  const total = (name: string) => printed(whole[`${totalsGroup(list.name)}.${name}`])
  const items = whole[list.name]
  if (!isItems(items) || items.length === 0 || total('gross') === '')
    return { ok: false, problem: `“${list.label}” has no lines that can be added up.` }
  const name = text(whole[fields.name])
  if (name === '') return { ok: false, problem: 'The buyer has no name.' }
  const taxes = whole[taxesList(list.name)]
  const shares = isItems(taxes) ? taxes : []
  return {
    ok: true,
    bill: {
      ...more,
      due: fields.due === null ? null : text(whole[fields.due]).slice(0, 10) || null,
      currency,
      seller: { ...more.seller, country: fields.sellerCountry },
      buyer: { name, address: linesOf(text(whole[fields.address])), country: fields.buyerCountry },
      lines: items.map((item) => lineOf(list, item)),
      allowance: total('discount'),
      allowances: allowancesOf(list, items, shares),
      taxes: shares.map((each) => ({
        base: printed(each['base']),
        tax: printed(each['tax']),
        rate: text(each['rate']),
      })),
      subtotal: total('subtotal'),
      net: total('net'),
      tax: total('tax'),
      gross: total('gross'),
    },
  }
}

const linesOf = (address: string): readonly string[] =>
  address
    .split(/\n|,/)
    .map((line) => line.trim())
    .filter(Boolean)

const rateOf = (list: Field, item: ItemData): string => text(item[list.lineItems!.taxRate ?? '']) || '0'

function lineOf(list: Field, item: ItemData): BillLine {
  const rule = list.lineItems!
  const amount = new Decimal(text(item[LINE_AMOUNT]))
  const quantity = new Decimal(rule.quantity === null ? '1' : text(item[rule.quantity]) || '1')
  const price = new Decimal(text(item[rule.price]) || '0')
  const percent = rule.discount === null ? '' : text(item[rule.discount])
  // The line's discount is what the printed amount leaves of the whole (BR-LIN: net is gross less allowances).
  const digits = minorUnitDigits(currencyOf(list))
  const base = quantity.times(price).toDecimalPlaces(digits, Decimal.ROUND_HALF_UP)
  const first = (list.items ?? []).find(({ type }) => type === 'text' || type === 'long text')
  return {
    name: text(item[first?.name ?? '']) || list.label,
    quantity: quantity.toFixed(),
    price: price.toFixed(),
    discount:
      percent === '' || new Decimal(percent).isZero()
        ? null
        : { amount: base.minus(amount).toFixed(digits), percent, base: base.toFixed(digits) },
    amount: text(item[LINE_AMOUNT]),
    rate: rateOf(list, item),
  }
}

/** How the discount on the whole was shared: what each class's lines come to, less what is taxed of it. */
function allowancesOf(
  list: Field,
  items: readonly ItemData[],
  taxes: readonly ItemData[],
): Bill['allowances'] {
  return taxes.flatMap((each) => {
    const rate = text(each['rate'])
    const lines = items
      .filter((item) => new Decimal(rateOf(list, item)).equals(rate))
      .reduce((sum, item) => sum.plus(text(item[LINE_AMOUNT])), new Decimal(0))
    const amount = lines.minus(text(each['base']))
    return amount.isZero() ? [] : [{ amount: amount.toFixed(minorUnitDigits(currencyOf(list))), rate }]
  })
}
