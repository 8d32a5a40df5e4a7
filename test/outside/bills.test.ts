import { DOMParser, type Element, type Node } from '@xmldom/xmldom'
import { invoiceSchema } from '@e-invoice-eu/core'
import { Ajv2019 } from 'ajv/dist/2019.js'
import { expect } from 'chai'
import { Decimal } from 'decimal.js'
import fc from 'fast-check'
import { type Bill, billOf } from '#core/bill/bill.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import type { RecordData } from '#core/outline/field.ts'
import { ublOf } from '#server/convert/ubl/write.ts'
import { saleInvoice } from '../../demo/sale-invoice.ts'

// UBL 2.1 as the package `@e-invoice-eu/core` publishes its invoices' schema (JSON Schema, elements in the order of OASIS's),
// and the rules of totals of EN 16931-1:2017, 6.4 (BR-CO-10 to BR-CO-17).

const ready = prepareTemplate(saleInvoice)
const fields = {
  name: 'buyer.name',
  address: 'buyer.address',
  due: 'due',
  sellerCountry: 'US',
  buyerCountry: 'US',
}
const more = {
  number: 'INV-0001',
  issued: '2027-05-11',
  seller: {
    name: 'Larkmere Pollination',
    address: ['2 Apiary Lane', '97000 Larkmere'],
    city: 'Larkmere',
    postCode: '97000',
    taxNumber: 'XX4471902',
    taxScheme: 'VAT' as const,
  },
}
const data: RecordData = {
  'buyer.name': 'Fennel & <Bottom> Farm',
  'buyer.contact': 'Ottilie Crane',
  'buyer.email': 'ottilie@fennel.example',
  'buyer.address': '3 Mill Row, Sedge Harbor',
  handover: '2027-05-10',
  overall_discount: '2',
  'agreement.number': 'LP-0001',
  'agreement.day': '2027-04-20',
  lots: [
    { kind: 'Nucleus colony', grade: 'A', quantity: '12', price: '168.50', discount: '5', tax: '6' },
    { kind: 'Queen', grade: 'B', quantity: '3', price: '42', tax: '0' },
  ],
}
const made = (of: RecordData, seller: Partial<(typeof more)['seller'] | { taxScheme: 'STT' }> = {}): Bill => {
  if (!ready.ok) throw new Error('The template is not sound.')
  const read = billOf(ready.ready, of, fields, { ...more, seller: { ...more.seller, ...seller } })
  if (!read.ok) throw new Error(read.problem)
  return read.bill
}

/** Elements as the package's schema has them: members by name, a list where the schema has one, attributes as `name@attribute`. */
type Schema = {
  readonly type?: string
  readonly items?: Schema
  readonly properties?: Record<string, Schema>
}
const resolved = (schema: Schema & { $ref?: string }): Schema =>
  schema.$ref
    ? schema.$ref
        .split('/')
        .slice(1)
        .reduce<Schema>(
          (at, key) => (at as unknown as Record<string, Schema>)[key]!,
          invoiceSchema as unknown as Schema,
        )
    : schema
function jsonOf(element: Element, schema: Schema): unknown {
  const members: Record<string, unknown> = {}
  const children = [...(element.childNodes as unknown as Iterable<Node>)].filter(
    ({ nodeType }) => nodeType === 1,
  ) as Element[]
  for (const child of children) {
    const own = resolved(schema.properties?.[child.nodeName] ?? {})
    const one = own.type === 'array' ? resolved(own.items ?? {}) : own
    const isText = [...(child.childNodes as unknown as Iterable<Node>)].every(
      ({ nodeType }) => nodeType !== 1,
    )
    const value = isText ? child.textContent : jsonOf(child, one)
    if (own.type === 'array')
      members[child.nodeName] = [...((members[child.nodeName] as unknown[]) ?? []), value]
    else members[child.nodeName] = value
    for (const attribute of [...(child.attributes as unknown as Iterable<{ name: string; value: string }>)])
      members[`${child.nodeName}@${attribute.name}`] = attribute.value
  }
  return members
}

/** Names of elements in their order. */
const order = (element: Element): readonly string[] =>
  [...(element.childNodes as unknown as Iterable<Node>)]
    .filter(({ nodeType }) => nodeType === 1)
    .map(({ nodeName }) => nodeName)

describe('bills', () => {
  it('are UBL invoices as the schema has them, element by element in its order', () => {
    const root = new DOMParser().parseFromString(ublOf(made(data)), 'text/xml').documentElement!
    const schema = (invoiceSchema as unknown as { properties: Record<string, Schema> }).properties[
      'ubl:Invoice'
    ]!
    const json = { 'ubl:Invoice': jsonOf(root, resolved(schema)) }
    const validate = new Ajv2019({ strict: false, allErrors: true, validateFormats: false }).compile(
      invoiceSchema,
    )
    validate(json)
    // `ProfileID` names a network's process (Peppol BIS 3); EN 16931 itself has none.
    const told = (validate.errors ?? [])
      .filter(({ message }) => !/ProfileID/.test(message ?? ''))
      .map(({ instancePath, message, params }) => `${instancePath} ${message} ${JSON.stringify(params)}`)
    expect(told).to.deep.equal([])
    const names = Object.keys(schema.properties!).filter((name) => !name.includes('@'))
    const places = order(root).map((name) => names.indexOf(name))
    expect(places).to.not.include(-1)
    expect([...places].sort((a, b) => a - b)).to.deep.equal(places)
  })

  it('say who sells as EN 16931 asks (BR-08, BR-CO-26, BR-S-02), and claim it only where they hold its rules', () => {
    const seller = (xml: string) =>
      new DOMParser().parseFromString(xml, 'text/xml').getElementsByTagName('cac:AccountingSupplierParty')[0]!
    const said = (of: Element, name: string) => of.getElementsByTagName(name)[0]?.textContent ?? null
    const whole = ublOf(made(data))
    // BT-35, BT-37, BT-38, BT-40: street, city, postal code, country; the city's line is not written twice.
    expect(
      [
        'cbc:StreetName',
        'cbc:AdditionalStreetName',
        'cbc:CityName',
        'cbc:PostalZone',
        'cbc:IdentificationCode',
      ].map((name) => said(seller(whole), name)),
    ).to.deep.equal(['2 Apiary Lane', null, 'Larkmere', '97000', 'US'])
    // BT-31, in the scheme VAT (UN/CEFACT 5153).
    const scheme = seller(whole).getElementsByTagName('cac:PartyTaxScheme')[0]!
    expect([said(scheme, 'cbc:CompanyID'), said(scheme, 'cbc:ID')]).to.deep.equal(['XX4471902', 'VAT'])
    expect(whole).to.contain('urn:cen.eu:en16931:2017')
    const without = ublOf(made(data, { taxNumber: '' }))
    expect(without).to.not.contain('urn:cen.eu:en16931')
    expect(without).to.not.contain('PartyTaxScheme')
    // A sales tax is none of its kinds: the file says which it is, and not that it is by EN 16931.
    const sales = ublOf(made(data, { taxScheme: 'STT' }))
    expect(sales).to.not.contain('urn:cen.eu:en16931')
    expect(sales).to.not.contain('VAT')
    expect(sales).to.contain('<cac:TaxScheme><cbc:ID>STT</cbc:ID></cac:TaxScheme>')
  })

  it('write names as XML has them (XML 1.0, 2.4)', () => {
    const xml = ublOf(made({ ...data, 'buyer.name': 'A\u0000 & <b> "c" ]]>' }))
    expect(xml).to.contain('&amp; &lt;b')
    const root = new DOMParser().parseFromString(xml, 'text/xml')
    expect(root.getElementsByTagName('cbc:RegistrationName')[1]!.textContent).to.equal('A & <b> "c" ]]>')
  })

  it('hold the rules of totals of EN 16931, whatever is sold', () => {
    const money = fc.integer({ min: 1, max: 2_000_00 }).map((cents) => new Decimal(cents).div(100).toFixed(2))
    const rate = fc.constantFrom('0', '6', '7.25', '19')
    const lot = fc.record({
      kind: fc.constantFrom('Queen', 'Nucleus colony'),
      grade: fc.constantFrom('A', 'B'),
      quantity: fc.integer({ min: 1, max: 400 }).map(String),
      price: money,
      discount: fc.constantFrom('0', '5', '12.5'),
      tax: rate,
    })
    fc.assert(
      fc.property(
        fc.array(lot, { minLength: 1, maxLength: 12 }),
        fc.constantFrom('0', '2', '10'),
        (lots, overall) => {
          const bill = made({ ...data, lots, overall_discount: overall })
          const sum = (values: readonly string[]) =>
            values.reduce((total, value) => total.plus(value), new Decimal(0)).toFixed(2)
          // BR-CO-10: sum of the lines. BR-CO-11: sum of the allowances. BR-CO-13: less allowances. BR-CO-14: sum of the taxes.
          expect(sum(bill.lines.map(({ amount }) => amount))).to.equal(bill.subtotal)
          expect(sum(bill.allowances.map(({ amount }) => amount))).to.equal(
            new Decimal(bill.allowance).toFixed(2),
          )
          expect(new Decimal(bill.subtotal).minus(bill.allowance).toFixed(2)).to.equal(bill.net)
          expect(sum(bill.taxes.map(({ tax }) => tax))).to.equal(bill.tax)
          // BR-CO-15: net and tax. BR-CO-17: each class's tax is its base by its rate, rounded to two decimals.
          expect(new Decimal(bill.net).plus(bill.tax).toFixed(2)).to.equal(bill.gross)
          for (const { base, tax, rate: of } of bill.taxes)
            expect(
              new Decimal(base).times(of).div(100).toDecimalPlaces(2, Decimal.ROUND_HALF_UP).toFixed(2),
            ).to.equal(tax)
          // BR-S-8: what is taxed at a rate is its lines less its share of the allowances.
          expect(sum(bill.taxes.map(({ base }) => base))).to.equal(bill.net)
          for (const { quantity, price, discount, amount } of bill.lines) {
            const whole = new Decimal(quantity).times(price).toDecimalPlaces(2, Decimal.ROUND_HALF_UP)
            expect(whole.minus(discount?.amount ?? 0).toFixed(2)).to.equal(amount)
          }
        },
      ),
      { numRuns: 200 },
    )
  })
})
