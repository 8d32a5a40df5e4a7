import { expect } from 'chai'
import { Decimal } from 'decimal.js'
import fc from 'fast-check'
import { minorUnitDigits, roundMoney } from '#core/money/currency.ts'
import { type Line, share, totalsOf } from '#core/money/line-items.ts'

const line = (quantity: string, price: string, discountPercent = '0', taxPercent = '0'): Line => ({
  quantity: new Decimal(quantity),
  price: new Decimal(price),
  discountPercent: new Decimal(discountPercent),
  taxPercent: new Decimal(taxPercent),
})

const sum = (values: readonly Decimal[]) => values.reduce((a, b) => a.plus(b), new Decimal(0))

describe('priced lines', () => {
  it('are rounded one by one, and the sum is that of the rounded amounts', () => {
    const { amounts, subtotal } = totalsOf([line('3', '33.335'), line('1', '0.005')], null, 'USD', 'half up')
    expect(amounts.map((amount) => amount.toFixed(2))).to.deep.equal(['100.01', '0.01'])
    expect(subtotal.toFixed(2)).to.equal('100.02')
  })

  it('round halves to the even cent where that is asked for', () => {
    const totals = (rounding: 'half up' | 'half even') =>
      totalsOf([line('1', '0.125'), line('1', '0.135')], null, 'USD', rounding).amounts.map(String)
    expect(totals('half up')).to.deep.equal(['0.13', '0.14'])
    expect(totals('half even')).to.deep.equal(['0.12', '0.14'])
  })

  it('have tax by rate, on what is left after a discount on the whole', () => {
    const totals = totalsOf(
      [line('2', '100', '10', '6'), line('1', '50', '0', '0')],
      { percent: new Decimal(10) },
      'USD',
      'half up',
    )
    expect(totals.subtotal.toFixed(2)).to.equal('230.00')
    expect(totals.discount.toFixed(2)).to.equal('23.00')
    expect(
      totals.taxes.map(({ rate, base, tax }) => [rate, base, tax].map((n) => n.toFixed(2))),
    ).to.deep.equal([
      ['0.00', '45.00', '0.00'],
      ['6.00', '162.00', '9.72'],
    ])
    expect(totals.gross.toFixed(2)).to.equal('216.72')
  })

  it('know currencies without cents, and with thousandths', () => {
    expect(roundMoney(new Decimal('1234.5'), 'JPY', 'half up').toFixed()).to.equal('1235')
    expect(roundMoney(new Decimal('1.2345'), 'KWD', 'half even').toFixed()).to.equal('1.234')
    expect(minorUnitDigits('USD')).to.equal(2)
  })

  const money = fc.integer({ min: 0, max: 10_000_000 }).map((n) => new Decimal(n).div(1000))
  const percent = fc.constantFrom('0', '5', '6', '7.7', '19', '33.3').map((n) => new Decimal(n))
  const lines = fc.array(
    fc.record({ quantity: money, price: money, discountPercent: percent, taxPercent: percent }),
    { minLength: 1, maxLength: 12 },
  )

  it('always total exactly what is printed, whatever the lines, the discount and the currency', () => {
    fc.assert(
      fc.property(
        lines,
        fc.option(percent, { nil: null }),
        fc.constantFrom('USD', 'JPY', 'KWD'),
        fc.constantFrom('half up' as const, 'half even' as const),
        (some, overall, currency, rounding) => {
          const totals = totalsOf(some, overall && { percent: overall }, currency, rounding)
          const digits = minorUnitDigits(currency)
          const whole = (value: Decimal) => value.decimalPlaces() <= digits
          expect(sum(totals.amounts).eq(totals.subtotal)).to.equal(true)
          expect(totals.subtotal.minus(totals.discount).eq(totals.net)).to.equal(true)
          expect(sum(totals.taxes.map(({ base }) => base)).eq(totals.net)).to.equal(true)
          expect(sum(totals.taxes.map(({ tax }) => tax)).eq(totals.tax)).to.equal(true)
          expect(totals.net.plus(totals.tax).eq(totals.gross)).to.equal(true)
          expect(
            [...totals.amounts, totals.discount, ...totals.taxes.map(({ tax }) => tax)].every(whole),
          ).to.equal(true)
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('sharing an amount', () => {
  it('gives the parts in proportion and loses nothing', () => {
    const parts = share(
      new Decimal('100'),
      [1, 1, 1].map((n) => new Decimal(n)),
      2,
    )
    expect(parts.map((part) => part.toFixed(2))).to.deep.equal(['33.34', '33.33', '33.33'])
  })

  it('gives what rounding leaves over to the largest remainders, wherever they stand', () => {
    const weights = [1, 1, 4].map((n) => new Decimal(n))
    // 1.6666…, 1.6666…, 6.6666…: all alike, so the first ones; 0.5, 0.5, 2 of 3: exactly one place each.
    expect(share(new Decimal('10'), weights, 0).map(String)).to.deep.equal(['2', '2', '6'])
    const uneven = [10, 29, 61].map((n) => new Decimal(n))
    // 1.0, 2.9, 6.1: the second has most left over.
    expect(share(new Decimal('10'), uneven, 0).map(String)).to.deep.equal(['1', '3', '6'])
    // 0.55, 1.05, 3.4: the first.
    const others = [11, 21, 68].map((n) => new Decimal(n))
    expect(share(new Decimal('5'), others, 0).map(String)).to.deep.equal(['1', '1', '3'])
  })

  it('gives everything to the first where there is nothing to go by', () => {
    expect(share(new Decimal('5'), [new Decimal(0), new Decimal(0)], 2).map(String)).to.deep.equal(['5', '0'])
  })

  it('always adds up to the amount', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1_000_000 }),
        fc.array(fc.integer({ min: 0, max: 10_000 }), { minLength: 1, maxLength: 9 }),
        (cents, weights) => {
          const amount = new Decimal(cents).div(100)
          const parts = share(
            amount,
            weights.map((n) => new Decimal(n)),
            2,
          )
          expect(sum(parts).eq(amount)).to.equal(true)
        },
      ),
    )
  })
})
