import { expect } from 'chai'
import { Decimal } from 'decimal.js'
import { type Line, totalsOf } from '#core/money/line-items.ts'

// EN 16931-1:2017, semantic model of the core elements of an electronic invoice, clause 6.4: business rules on totals.
// The rules are transcribed from memory; the sums are worked by hand.

const line = (quantity: number, price: string, taxPercent: string, discountPercent = '0'): Line => ({
  quantity: new Decimal(quantity),
  price: new Decimal(price),
  discountPercent: new Decimal(discountPercent),
  taxPercent: new Decimal(taxPercent),
})

describe('totals as EN 16931 asks for them', () => {
  // Three lines at 25 %, 12 % and 0 %: the worked example has amounts that do not come out even.
  const totals = totalsOf(
    [line(10, '49.99', '25'), line(3, '33.335', '12', '5'), line(1, '7.77', '0')],
    { amount: new Decimal('60.00') },
    'EUR',
    'half up',
  )
  const text = (value: Decimal) => value.toFixed(2)

  it('BT-131: each line net amount is rounded to two decimals', () => {
    // 10 × 49.99 = 499.90; 3 × 33.335 × 0.95 = 95.00475, rounded 95.00; 7.77.
    expect(totals.amounts.map(text)).to.deep.equal(['499.90', '95.00', '7.77'])
  })

  it('BR-CO-10: the sum of line net amounts is the sum of the lines as printed', () => {
    expect(text(totals.subtotal)).to.equal('602.67')
  })

  it('BR-CO-13: the total without tax is that sum less the allowances', () => {
    expect(text(totals.net)).to.equal('542.67')
  })

  it('BR-S-08: taxable amounts of the categories add up to the total without tax', () => {
    // Shares of 60.00 by 499.90 : 95.00 : 7.77 are 49.768…, 9.457…, 0.773…: in cents 49.77, 9.46, 0.77.
    expect(totals.taxes.map(({ rate, base }) => [rate.toFixed(), text(base)])).to.deep.equal([
      ['0', '7.00'],
      ['12', '85.54'],
      ['25', '450.13'],
    ])
  })

  it('BR-CO-17: tax of a category is its taxable amount times the rate, rounded to two decimals', () => {
    // 85.54 × 12 % = 10.2648; 450.13 × 25 % = 112.5325.
    expect(totals.taxes.map(({ tax }) => text(tax))).to.deep.equal(['0.00', '10.26', '112.53'])
  })

  it('BR-CO-14: the total tax is the sum of the categories’ taxes', () => {
    expect(text(totals.tax)).to.equal('122.79')
  })

  it('BR-CO-15: the total with tax is the total without tax and the total tax', () => {
    expect(text(totals.gross)).to.equal('665.46')
  })
})
