import { languageName, LANGUAGES } from '../languages/language.ts'
import type { FieldType } from '../outline/field-kinds.ts'
import type { Field, Outline, RecordData } from '../outline/field.ts'

/** The kinds of records. */
export const RECORD_KINDS = ['customer', 'contact', 'deal', 'price'] as const
export type RecordKind = (typeof RECORD_KINDS)[number]

const field = (name: string, label: string, type: FieldType, more: Partial<Field> = {}): Field => ({
  name,
  label,
  type,
  required: false,
  ...more,
})
const named = (label: string): Field => field('name', label, 'text', { required: true })

/** What each kind of record has by itself; people add fields of their own. */
const OWN: Readonly<Record<RecordKind, Outline>> = {
  customer: [
    named('Name'),
    field('legal_form', 'Legal form', 'text'),
    field('email', 'E-mail', 'email'),
    field('phone', 'Telephone', 'phone'),
    field('address', 'Mailing address', 'address'),
    field('language', 'Language', 'choice', { choices: LANGUAGES.map(languageName) }),
  ],
  contact: [
    named('Name'),
    field('title', 'Title', 'text'),
    field('email', 'E-mail', 'email'),
    field('phone', 'Telephone', 'phone'),
  ],
  deal: [
    named('Name'),
    field('status', 'Status', 'choice', { choices: ['open', 'agreed', 'lost'] }),
    field('contact', 'Contact', 'text', { help: 'The name of one of the customer’s contacts.' }),
    field('lines', 'Lines', 'list', {
      items: [
        field('item', 'Item', 'text', { required: true }),
        field('quantity', 'Quantity', 'number'),
        field('unit', 'Unit', 'text'),
        field('price', 'Price', 'money', { currency: 'USD' }),
        field('discount', 'Discount', 'percent'),
        field('tax', 'Tax', 'percent'),
      ],
      lineItems: {
        quantity: 'quantity',
        price: 'price',
        discount: 'discount',
        taxRate: 'tax',
        overallDiscount: null,
        rounding: 'half up',
      },
    }),
  ],
  price: [
    named('Item'),
    field('unit', 'Unit', 'text'),
    field('price', 'Price', 'money', { currency: 'USD', required: true }),
    field('tax', 'Tax', 'percent'),
    field('valid_from', 'Valid from', 'date'),
  ],
}

/** All fields of a kind: its own first, then those that people have added. */
export const fieldsOfKind = (kind: RecordKind, added: Outline): Outline => [...OWN[kind], ...added]

/** Whether a kind has a field from the start, so that nobody added it. */
export const isOwnField = (kind: RecordKind, name: string): boolean =>
  OWN[kind].some((each) => each.name === name)

/** What several of a kind are called, which is also where they are found. */
export const PLURALS: Readonly<Record<RecordKind, string>> = {
  customer: 'customers',
  contact: 'contacts',
  deal: 'deals',
  price: 'prices',
}

/** Kinds that belong to a customer. */
export const belongsToCustomer = (kind: RecordKind): boolean => kind === 'contact' || kind === 'deal'

/** What a record is called; empty: it has no name. */
export const recordName = (data: RecordData): string => (typeof data['name'] === 'string' ? data['name'] : '')

/** Fields by which a record of another source is known to be the same one; the usual one first. */
export const matchingFields = (fields: Outline): readonly Field[] =>
  fields.filter(
    ({ type, computed }) => computed === undefined && ['text', 'email', 'phone', 'number'].includes(type),
  )
