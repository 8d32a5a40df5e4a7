import iconv from 'iconv-lite'
import type { AwkwardSheet } from './awkward.ts'

const text =
  (...lines: readonly string[]) =>
  () =>
    Promise.resolve(new TextEncoder().encode(lines.join('\r\n')))
const encoded =
  (encoding: string, ...lines: readonly string[]) =>
  () =>
    Promise.resolve(new Uint8Array(iconv.encode(lines.join('\r\n'), encoding)))

/** Files of which a second reader is not asked: it would have to be told what ours has to find by itself. */
const TOLD = 'the second reader would have to be told'

export const texts: readonly AwkwardSheet[] = [
  {
    file: 'semicolons.csv',
    fault: 'Semicolons part the cells, for the comma is in the figures.',
    bytes: text(
      'Orchard;Acres;Rent',
      'Brightwater;12,5;1.237,50',
      'Foxford;80;12.000,00',
      'Alder Bend;7,25;950,00',
    ),
    names: ['Orchard', 'Acres', 'Rent'],
    rows: 3,
    types: { Acres: 'number', Rent: 'number' },
    alone: TOLD,
  },
  {
    file: 'tabs.csv',
    fault: 'Tabs part the cells of a file that is called .csv.',
    bytes: text('Orchard\tCity', 'Brightwater\tTansy Falls, Oregon', 'Foxford\tGreenton'),
    names: ['Orchard', 'City'],
    rows: 2,
    first: { City: 'Tansy Falls, Oregon' },
    alone: TOLD,
  },
  {
    file: 'quotes.csv',
    fault: 'Quoted cells hold commas, doubled quotes and line breaks (RFC 4180, 2.6 and 2.7).',
    bytes: text(
      'Orchard,Address,Said',
      '"Bright, Water","14 Weir Road\r\nTansy Falls","they said ""yes"""',
      'Foxford,2 Mill Lane,no',
    ),
    names: ['Orchard', 'Address', 'Said'],
    rows: 2,
    first: { Orchard: 'Bright, Water', Said: 'they said "yes"' },
  },
  {
    file: 'mark.csv',
    fault: 'A byte order mark stands before the first name (Unicode 15, 23.8).',
    bytes: text('\ufeffOrchard,Acres', 'Brightwater,12', 'Foxford,80'),
    names: ['Orchard', 'Acres'],
    rows: 2,
  },
  {
    file: 'windows-1252.csv',
    fault:
      'Windows-1252, with a dash and quotes that Latin-1 does not have (WHATWG Encoding, index windows-1252).',
    bytes: encoded(
      'windows-1252',
      'Orchard;Contact;Remark',
      'Peña Blanca – north;José “Pepe” Núñez;la cosecha de la señora está cerca del río',
      'Côte d’Or;Zoë Lefèvre;les abeilles arrivent à la fin de l’été',
      'Montaña Verde;Íñigo Peralta;mañana por la mañana, sin pagar más',
      'Château-Neuf;Hélène Brûlé;près de la forêt, côté nord',
      'Cañada Honda;Begoña Ibáñez;el año próximo también',
    ),
    names: ['Orchard', 'Contact', 'Remark'],
    rows: 5,
    first: { Orchard: 'Peña Blanca – north', Contact: 'José “Pepe” Núñez' },
    alone: TOLD,
  },
  {
    file: 'utf-16.csv',
    fault: 'UTF-16 with its mark, as spreadsheets write “Unicode text”.',
    bytes: encoded('utf-16', 'Orchard\tContact', 'Mañana\tZoë', 'Foxford\tEve'),
    names: ['Orchard', 'Contact'],
    rows: 2,
    first: { Contact: 'Zoë' },
    alone: TOLD,
  },
  {
    file: 'codes.csv',
    fault: 'Codes with leading zeros, and some that look like powers of ten.',
    bytes: text(
      'Code,Orchard',
      '00812,Brightwater',
      '01E3,Foxford',
      '00040,Alder Bend',
      '12E10,Sedge Harbor',
    ),
    names: ['Code', 'Orchard'],
    rows: 4,
    types: { Code: 'text' },
    first: { Code: '00812' },
    alone: 'the second reader makes numbers of them: the fault itself',
  },
  {
    file: 'grouping.csv',
    fault: 'Figures are grouped as in India, with a currency and a minus behind.',
    bytes: text('Orchard;Rent', 'Brightwater;₹ 12,34,567.50', 'Foxford;₹ 1,00,000.00', 'Alder Bend;950.25-'),
    names: ['Orchard', 'Rent'],
    rows: 3,
    types: { Rent: 'number' },
    alone: TOLD,
  },
  {
    file: 'months.csv',
    fault: 'Days are written with the months of three languages.',
    bytes: text(
      'Orchard,Bloom',
      'Brightwater,12 marzo 2027',
      'Foxford,3 avril 2027',
      'Alder Bend,March 28 2027',
    ),
    names: ['Orchard', 'Bloom'],
    rows: 3,
    types: { Bloom: 'date' },
  },
  {
    file: 'either-way.csv',
    fault: 'Of some days nobody can say which figure is the month; one row tells (03/28).',
    bytes: text('Orchard,Bloom', 'Brightwater,03/04/2027', 'Foxford,03/28/2027', 'Alder Bend,04/05/2027'),
    names: ['Orchard', 'Bloom'],
    rows: 3,
    types: { Bloom: 'date' },
    alone: 'the second reader takes every day as the United States write it',
  },
  {
    file: 'ragged.csv',
    fault: 'Rows end early, one runs on, and every line has a comma too many.',
    bytes: text('Orchard,Acres,Crop,', 'Brightwater,12,,', 'Foxford,,,', 'Alder Bend,7,plum,'),
    names: ['Orchard', 'Acres', 'Crop'],
    rows: 3,
  },
  {
    file: 'no-names.csv',
    fault: 'No row names the columns.',
    bytes: text('Brightwater,12,cherry', 'Foxford,80,apple', 'Alder Bend,7,plum'),
    names: ['Column A', 'Column B', 'Column C'],
    rows: 3,
  },
  {
    file: 'nested.json',
    fault: 'Records are objects with a group and a list inside.',
    bytes: text(
      '{"bookings":[{"orchard":"Brightwater","site":{"city":"Tansy Falls"},"lots":[{"n":1},{"n":2}]},{"orchard":"Foxford","site":{"city":"Greenton"},"lots":[]}]}',
    ),
    names: ['orchard', 'site city', 'lots 1 n', 'lots 2 n'],
    rows: 2,
    first: { 'lots 2 n': '2' },
    alone: 'no format of the second reader',
  },
]
