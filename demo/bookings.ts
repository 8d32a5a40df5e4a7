import { seeded } from './random.ts'

/** The bookings sheet of the season 2027: 240 rows, some twenty with the faults real sheets have. All made up. */
export const HEADINGS = [
  'Season',
  'Orchard',
  'Legal form',
  'Contact',
  'E-mail',
  'Mailing address',
  'County',
  'State',
  'Crop',
  'Acres',
  'Bloom from',
  'Bloom until',
  'Organic',
  'Leased land',
  'Landowner',
  'Landowner’s e-mail',
  'New grower',
  'Colonies',
  'Frames',
  'Price per colony',
  'Discount %',
  'Payment days',
] as const

/** Dates as ISO text, so that each writer can put them in its own way. */
export type BookingCell = string | number | null | { readonly date: string }
export type Booking = readonly BookingCell[]

const first = [
  'Maud',
  'Amos',
  'Della',
  'Ivor',
  'Petra',
  'Linus',
  'Odile',
  'Casper',
  'Hester',
  'Anselm',
  'Bettina',
  'Corwin',
  'Elspeth',
  'Fergus',
  'Greta',
  'Hollis',
  'Idris',
  'Juna',
  'Kester',
  'Lavinia',
  'Marek',
  'Nerys',
  'Osric',
  'Paloma',
  'Quentin',
  'Rosalind',
  'Stellan',
  'Tamsin',
  'Ulric',
  'Verity',
]
const last = [
  'Ellery',
  'Pell',
  'Thornbury',
  'Quill',
  'Marsh',
  'Holloway',
  'Brandreth',
  'Corbin',
  'Dunmore',
  'Eastlake',
  'Fairlie',
  'Garrick',
  'Hawthorne',
  'Inman',
  'Jessop',
  'Kettler',
  'Lorimer',
  'Mabry',
  'Northcote',
  'Oakden',
  'Pryor',
  'Ramsey',
  'Selwyn',
  'Trask',
  'Underhill',
  'Varley',
  'Wexford',
  'Yarrow',
]
const placeA = [
  'Bright',
  'Tansy',
  'Stone',
  'Clear',
  'Elder',
  'Fox',
  'Green',
  'Hazel',
  'Iron',
  'Juniper',
  'Kings',
  'Lark',
  'Mill',
  'North',
  'Otter',
  'Plum',
  'Quarry',
  'Red',
  'Silver',
  'Thorn',
  'Upper',
  'Vale',
  'Willow',
  'Yarrow',
]
const placeB = [
  'water',
  'field',
  'brook',
  'hollow',
  'ridge',
  'meadow',
  'gate',
  'hill',
  'ford',
  'bank',
  'crest',
  'dale',
  'grove',
  'bend',
]
const counties = ['Hollin', 'Marrow', 'Cask', 'Perrin', 'Ashdown', 'Tullis', 'Breck', 'Wynn']
const kinds = ['Orchard', 'Orchards', 'Fruit Farm', 'Growers', 'Farms']
const forms = ['LLC', 'LLC', 'Inc.', 'Partnership', 'Sole proprietor']
const bloom: Record<string, readonly [month: number, day: number, length: number]> = {
  almond: [2, 12, 18],
  plum: [3, 14, 14],
  cherry: [3, 26, 15],
  pear: [4, 2, 14],
  apple: [4, 12, 17],
  blueberry: [4, 18, 21],
}

interface Profile {
  readonly leased: boolean
  readonly fresh: boolean
  readonly organic: boolean
  readonly away: boolean
}

/** How many growers are of which kind: nine kinds, so nine wordings. */
const profiles: readonly (readonly [number, Partial<Profile>])[] = [
  [92, {}],
  [41, { leased: true }],
  [33, { away: true }],
  [24, { organic: true }],
  [19, { fresh: true }],
  [12, { leased: true, away: true }],
  [9, { organic: true, leased: true }],
  [6, { fresh: true, leased: true }],
  [4, { organic: true, away: true }],
]

const isoDate = (year: number, month: number, day: number) =>
  new Date(Date.UTC(year, month - 1, day)).toISOString().slice(0, 10)

/** The rows before anything went wrong with them. */
export function soundRows(): Booking[] {
  const random = seeded(2027)
  const names = random.shuffle(placeA.flatMap((a) => placeB.map((b) => a + b)))
  const kept = random.shuffle(
    profiles.flatMap(([count, profile]) => Array.from({ length: count }, () => profile)),
  )
  return kept.map((profile, i) => {
    const place = names[i]!
    const orchard = `${place} ${random.pick(kinds)}`
    const [given, family] = [random.pick(first), random.pick(last)]
    const crop = random.pick(
      profile.away ? ['almond', 'cherry', 'apple'] : ['plum', 'cherry', 'pear', 'apple', 'blueberry'],
    )
    const [month, day, length] = bloom[crop]!
    const start = day + random.between(-4, 6)
    const acres = random.between(12, 260)
    const colonies = Math.max(16, Math.round((acres * random.between(12, 20)) / 80) * 8)
    const form = random.pick(forms)
    const address = `${random.between(2, 980)} ${random.pick(placeA)}${random.pick(placeB)} Road, ${random.pick(placeA)}ton`
    const county = random.pick(counties)
    const state = profile.away ? random.pick(['Washington', 'California', 'Idaho']) : 'Oregon'
    const owner = profile.leased ? `${random.pick(first)} ${random.pick(last)}` : null
    return [
      '2027',
      orchard,
      form,
      `${given} ${family}`,
      `${given}.${family}@${place}.example`.toLowerCase(),
      address,
      county,
      state,
      crop,
      acres,
      { date: isoDate(2027, month, start) },
      { date: isoDate(2027, month, start + length) },
      profile.organic ? 'yes' : 'no',
      profile.leased ? 'yes' : 'no',
      owner,
      owner && `${owner.replace(' ', '.')}@${place}land.example`.toLowerCase(),
      profile.fresh ? 'yes' : 'no',
      colonies,
      random.pick([6, 8, 8, 8, 10]),
      random.pick([178, 185, 192.5, 195, 204, 212.5]),
      random.pick([null, null, null, 3, 5, 5, 8]),
      random.pick([14, 30, 30, 30, 45]),
    ]
  })
}

const at = (heading: (typeof HEADINGS)[number]) => HEADINGS.indexOf(heading)

/** Row of the list (from 0), column, and what stands there instead. Rows kept few enough to read them all. */
const faults: readonly (readonly [number, (typeof HEADINGS)[number], BookingCell])[] = [
  [6, 'Mailing address', null],
  [19, 'E-mail', null],
  [31, 'Bloom from', '2nd week of April'],
  [44, 'Price per colony', 'as last year'],
  [52, 'E-mail', 'hester.pryor at quarrybend'],
  [63, 'Mailing address', null],
  [70, 'Bloom until', '2027-04-31'],
  [88, 'Colonies', 'approx. 200'],
  [95, 'Contact', null],
  [101, 'E-mail', 'n/a'],
  [117, 'Price per colony', 'USD 19O'],
  [126, 'Leased land', 'partly'],
  [139, 'Mailing address', null],
  [148, 'Bloom from', 46114],
  [155, 'Crop', 'quince'],
  [163, 'E-mail', 'orchard@@silverford.example'],
  [178, 'Payment days', null],
  [187, 'Acres', '40 + 25'],
  [201, 'Discount %', 'see mail'],
  [214, 'Mailing address', null],
  [229, 'Bloom from', 'TBD'],
]

/** Written in ways people write them, and readable all the same: these rows need no hand. */
const oddities: readonly (readonly [number, (typeof HEADINGS)[number], BookingCell])[] = [
  [3, 'Price per colony', '$195.00'],
  [11, 'Orchard', '  Upperdale Orchards '],
  [27, 'Price per colony', '1,95.00'.replace(',', '')],
  [58, 'Bloom from', 'April 11, 2027'],
  [76, 'Organic', 'Yes'],
  [109, 'Discount %', '5 %'],
  [133, 'Colonies', '1,040'],
]

export function bookings(): readonly Booking[] {
  const rows = soundRows().map((row) => [...row])
  for (const [row, heading, cell] of [...faults, ...oddities]) rows[row]![at(heading)] = cell
  return rows
}
