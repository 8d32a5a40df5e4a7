import type { Field, RecordData } from '#core/outline/field.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { type Booking, HEADINGS, soundRows } from './bookings.ts'
import { field } from './writing.ts'

// The record book of the demo: the first growers of the bookings, their contacts, and the season's deals. All made up.

const own = (name: string, label: string, type: Field['type'], more: Partial<Field> = {}): Field => ({
  ...field(name, label, type, more),
  required: false,
})

/** Fields that Larkmere has added to the kinds of its record book. */
export const addedFields: Readonly<Partial<Record<RecordKind, readonly Field[]>>> = {
  customer: [
    own('county', 'County', 'text'),
    own('state', 'State', 'text'),
    own('crop', 'Crop', 'choice', {
      choices: ['almond', 'apple', 'blueberry', 'cherry', 'pear', 'plum'],
    }),
    own('acres', 'Acres', 'number'),
    own('organic', 'Organic', 'yes/no'),
    own('leased', 'Land leased', 'yes/no'),
    own('landowner', 'Landowner', 'text'),
    own('landowner_email', 'Landowner’s mail address', 'email'),
  ],
  deal: [
    own('season', 'Season', 'text'),
    own('bloom_from', 'First day of bloom', 'date'),
    own('bloom_until', 'Last day of bloom', 'date'),
    own('first_season', 'First season', 'yes/no'),
    own('colonies', 'Colonies', 'number'),
    own('frames', 'Frames of bees', 'number'),
    own('price_per_colony', 'Price per colony', 'money', { currency: 'USD' }),
    own('discount', 'Discount', 'percent'),
    own('payment_days', 'Payment days', 'number'),
  ],
}

export const prices: readonly RecordData[] = [
  { name: 'Colony, strength 6 frames', unit: 'colony', price: '178.00', tax: '0' },
  { name: 'Colony, strength 8 frames', unit: 'colony', price: '195.00', tax: '0' },
  { name: 'Colony, strength 10 frames', unit: 'colony', price: '212.50', tax: '0' },
  { name: 'Night delivery', unit: 'load', price: '240.00', tax: '6' },
  { name: 'Extra move within the orchard', unit: 'colony', price: '9.50', tax: '6' },
  { name: 'Inspection on request', unit: 'visit', price: '165.00', tax: '6' },
]

const KEPT = 60

export interface Grower {
  readonly customer: RecordData
  readonly contact: RecordData
  readonly deal: RecordData
}

/** The first growers of the bookings, as the record book has them. */
export function growers(): readonly Grower[] {
  return soundRows().slice(0, KEPT).map(growerOf)
}

function growerOf(row: Booking, i: number): Grower {
  const cell = (heading: (typeof HEADINGS)[number]): string => {
    const found = row[HEADINGS.indexOf(heading)] ?? null
    return found === null ? '' : typeof found === 'object' ? found.date : String(found)
  }
  const yes = (heading: (typeof HEADINGS)[number]) => cell(heading) === 'yes'
  const filled = (data: Readonly<Record<string, string | boolean>>): RecordData =>
    Object.fromEntries(Object.entries(data).filter(([, value]) => value !== ''))
  const colonies = cell('Colonies')
  const strength = { '6': prices[0]!, '8': prices[1]!, '10': prices[2]! }[cell('Frames')] ?? prices[1]!
  return {
    customer: filled({
      name: cell('Orchard'),
      legal_form: cell('Legal form'),
      email: cell('E-mail'),
      address: cell('Mailing address'),
      language: i % 9 === 4 ? 'Spanish' : i % 17 === 6 ? 'French' : 'English',
      county: cell('County'),
      state: cell('State'),
      crop: cell('Crop'),
      acres: cell('Acres'),
      organic: yes('Organic'),
      leased: yes('Leased land'),
      landowner: cell('Landowner'),
      landowner_email: cell('Landowner’s e-mail'),
    }),
    contact: filled({
      name: cell('Contact'),
      title: 'Owner',
      email: cell('E-mail'),
    }),
    deal: {
      ...filled({
        name: `${cell('Orchard')}, 2027`,
        status: i % 11 === 7 ? 'lost' : i % 5 === 3 ? 'open' : 'agreed',
        contact: cell('Contact'),
        season: '2027',
        bloom_from: cell('Bloom from'),
        bloom_until: cell('Bloom until'),
        first_season: yes('New grower'),
        colonies,
        frames: cell('Frames'),
        price_per_colony: cell('Price per colony'),
        discount: cell('Discount %'),
        payment_days: cell('Payment days'),
      }),
      lines: [
        {
          item: String(strength['name']),
          quantity: colonies,
          unit: 'colony',
          price: String(strength['price']),
          tax: '0',
        },
        ...(i % 3 === 0
          ? [{ item: 'Night delivery', quantity: '2', unit: 'load', price: '240.00', tax: '6' }]
          : []),
      ],
    },
  }
}
