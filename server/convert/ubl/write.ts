import { DOMImplementation, type Element, XMLSerializer } from '@xmldom/xmldom'
import { type Bill, type BillLine, type BillParty, isByEn16931, type Seller } from '#core/bill/bill.ts'
import type { TaxScheme } from '#core/organisation/organisation.ts'

// UBL 2.1 (OASIS, ISO/IEC 19845) by the rules of EN 16931. The order of elements is the schema's.

/** Namespaces in XML 1.0, 3: what prefixes are declared in. */
const XMLNS = 'http://www.w3.org/2000/xmlns/'
const INVOICE = 'urn:oasis:names:specification:ubl:schema:xsd:Invoice-2'
const SPACES = {
  cac: 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
  cbc: 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
} as const

/** An element: its name with the prefix of its space, attributes, and text or elements in it. */
type Node = readonly [name: `${keyof typeof SPACES}:${string}`, ...inside: Inside[]]
type Inside = string | Node | { readonly [attribute: string]: string } | null

/** Characters that no XML 1.0 document can hold. */
// eslint-disable-next-line no-control-regex -- these are what is taken out
const UNFIT = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g

/** A bill as a UBL invoice. Text is written by the serializer's rules: nothing of it can become markup. */
export function ublOf(bill: Bill): string {
  const document = new DOMImplementation().createDocument(INVOICE, 'Invoice', null)
  const put = (into: Element, [name, ...inside]: Node): void => {
    const made = document.createElementNS(SPACES[name.split(':')[0] as keyof typeof SPACES], name)
    for (const part of inside) {
      if (part === null) continue
      if (typeof part === 'string') made.appendChild(document.createTextNode(part.replace(UNFIT, '')))
      else if (Array.isArray(part)) put(made, part as unknown as Node)
      else for (const [key, value] of Object.entries(part)) made.setAttribute(key, value as string)
    }
    into.appendChild(made)
  }
  const root = document.documentElement!
  for (const [prefix, space] of Object.entries(SPACES)) root.setAttributeNS(XMLNS, `xmlns:${prefix}`, space)
  for (const node of partsOf(bill)) if (node) put(root, node)
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(document)}\n`
}

function partsOf(bill: Bill): readonly (Node | null)[] {
  const { taxScheme: scheme } = bill.seller
  const amount = (name: `cbc:${string}`, value: string): Node => [name, { currencyID: bill.currency }, value]
  return [
    // BT-24: the core of EN 16931, with no usage of its own. What does not hold its rules does not claim it.
    isByEn16931(bill) ? ['cbc:CustomizationID', 'urn:cen.eu:en16931:2017'] : null,
    ['cbc:ID', bill.number],
    ['cbc:IssueDate', bill.issued],
    bill.due ? ['cbc:DueDate', bill.due] : null,
    // UNTDID 1001: commercial invoice.
    ['cbc:InvoiceTypeCode', '380'],
    ['cbc:DocumentCurrencyCode', bill.currency],
    ['cac:AccountingSupplierParty', sellerOf(bill.seller)],
    ['cac:AccountingCustomerParty', partyOf(bill.buyer)],
    ...bill.allowances.map(({ amount: value, rate }): Node => [
      'cac:AllowanceCharge',
      ['cbc:ChargeIndicator', 'false'],
      ['cbc:AllowanceChargeReason', 'Discount'],
      amount('cbc:Amount', value),
      categoryOf('cac:TaxCategory', rate, scheme),
    ]),
    [
      'cac:TaxTotal',
      amount('cbc:TaxAmount', bill.tax),
      ...bill.taxes.map(({ base, tax, rate }): Node => [
        'cac:TaxSubtotal',
        amount('cbc:TaxableAmount', base),
        amount('cbc:TaxAmount', tax),
        categoryOf('cac:TaxCategory', rate, scheme),
      ]),
    ],
    [
      'cac:LegalMonetaryTotal',
      amount('cbc:LineExtensionAmount', bill.subtotal),
      amount('cbc:TaxExclusiveAmount', bill.net),
      amount('cbc:TaxInclusiveAmount', bill.gross),
      amount('cbc:AllowanceTotalAmount', bill.allowance),
      amount('cbc:PayableAmount', bill.gross),
    ],
    ...bill.lines.map((line, i) => lineOf(line, i, amount, scheme)),
  ]
}

const addressOf = (
  { address, country }: BillParty,
  { city, postCode }: Pick<Seller, 'city' | 'postCode'>,
): Node => [
  'cac:PostalAddress',
  address[0] ? ['cbc:StreetName', address[0]] : null,
  address[1] ? ['cbc:AdditionalStreetName', address[1]] : null,
  city ? ['cbc:CityName', city] : null,
  postCode ? ['cbc:PostalZone', postCode] : null,
  ...address.slice(2, 3).map((line): Node => ['cac:AddressLine', ['cbc:Line', line]]),
  ['cac:Country', ['cbc:IdentificationCode', country]],
]

const partyOf = (party: BillParty): Node => [
  'cac:Party',
  addressOf(party, { city: '', postCode: '' }),
  ['cac:PartyLegalEntity', ['cbc:RegistrationName', party.name]],
]

const sellerOf = (seller: Seller): Node => {
  const { name, address, city, taxNumber, taxScheme } = seller
  // The line that says the city is not written twice.
  const lines = city ? address.filter((line) => !line.toLowerCase().includes(city.toLowerCase())) : address
  return [
    'cac:Party',
    addressOf({ ...seller, address: lines }, seller),
    taxNumber
      ? ['cac:PartyTaxScheme', ['cbc:CompanyID', taxNumber], ['cac:TaxScheme', ['cbc:ID', taxScheme]]]
      : null,
    ['cac:PartyLegalEntity', ['cbc:RegistrationName', name]],
  ]
}

/** UNCL 5305: S where something is taxed, Z where nothing is. */
const categoryOf = (
  name: 'cac:TaxCategory' | 'cac:ClassifiedTaxCategory',
  rate: string,
  scheme: TaxScheme,
): Node => [
  name,
  ['cbc:ID', Number(rate) === 0 ? 'Z' : 'S'],
  ['cbc:Percent', rate],
  ['cac:TaxScheme', ['cbc:ID', scheme]],
]

/** UN/ECE recommendation 20: one, of whatever it is. */
const ONE = 'C62'

const lineOf = (
  { name, quantity, price, discount, amount, rate }: BillLine,
  i: number,
  money: (name: `cbc:${string}`, value: string) => Node,
  scheme: TaxScheme,
): Node => [
  'cac:InvoiceLine',
  ['cbc:ID', String(i + 1)],
  ['cbc:InvoicedQuantity', { unitCode: ONE }, quantity],
  money('cbc:LineExtensionAmount', amount),
  discount && [
    'cac:AllowanceCharge',
    ['cbc:ChargeIndicator', 'false'],
    ['cbc:AllowanceChargeReason', 'Discount'],
    ['cbc:MultiplierFactorNumeric', discount.percent],
    money('cbc:Amount', discount.amount),
    money('cbc:BaseAmount', discount.base),
  ],
  ['cac:Item', ['cbc:Name', name], categoryOf('cac:ClassifiedTaxCategory', rate, scheme)],
  ['cac:Price', money('cbc:PriceAmount', price)],
]
