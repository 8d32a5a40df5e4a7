import type { TemplateContent } from '#core/document/template.ts'
import type { Field } from '#core/outline/field.ts'
import { field, Writer } from './writing.ts'

const outline: readonly Field[] = [
  field('buyer.name', 'Buyer', 'text', { example: 'Fennel Bottom Farm' }),
  field('buyer.contact', 'Contact', 'text', { example: 'Ottilie Crane' }),
  field('buyer.email', 'Contact’s mail address', 'email', { example: 'ottilie.crane@fennelbottom.example' }),
  field('buyer.phone', 'Contact’s telephone', 'phone', { required: false, example: '+1 503 555 0142' }),
  field('buyer.address', 'Address', 'address', { example: '3 Mill Row, Sedge Harbor' }),
  field('handover', 'Day of handover', 'date', { example: '2027-05-10', format: 'full' }),
  field('payment', 'Payment', 'choice', {
    choices: ['at handover', 'in advance', 'in instalments'],
    example: 'at handover',
  }),
  field('instalments', 'Number of instalments', 'number', { default: '3', example: '3', required: false }),
  field('overall_discount', 'Discount on the whole', 'percent', { required: false, example: '2' }),
  field('lots', 'Lots', 'list', {
    items: [
      field('kind', 'Item', 'text', { example: 'Nucleus colony, five frames' }),
      field('grade', 'Strength grade', 'choice', { choices: ['A', 'B', 'C'], example: 'A' }),
      field('quantity', 'Quantity', 'number', { example: '12' }),
      field('price', 'Price', 'money', { currency: 'USD', example: '168.50' }),
      field('discount', 'Discount', 'percent', { required: false, example: '5' }),
      field('tax', 'Tax rate', 'percent', { required: false, example: '6' }),
    ],
    lineItems: {
      quantity: 'quantity',
      price: 'price',
      discount: 'discount',
      taxRate: 'tax',
      overallDiscount: 'overall_discount',
      rounding: 'half up',
    },
  }),
  field('total_in_words', 'Total in words', 'text', {
    computed: 'amount in words(lots_totals.gross, "USD")',
  }),
  field('colonies', 'Colonies', 'number', { computed: 'sum(lots.quantity)' }),
  field('grades', 'Grades delivered', 'text', { computed: 'join with and(distinct values(lots.grade))' }),
  field('inspection', 'Inspection until', 'date', { computed: 'add business days(handover, 5)' }),
  field('instalment', 'Instalment', 'money', {
    currency: 'USD',
    computed: 'round half up(lots_totals.gross / instalments, 2)',
  }),
]

const w = new Writer('s')

const payment = w.when(
  'payment = "in advance"',
  w.clause('**Payment in advance.** The price is paid in full five working days before {{handover | long}}.'),
)
const warranty = w.clause(
  w.paragraph(
    '**Health.** The keeper hands over colonies that are free of signs of disease',
    w.phrase('colonies > 20', ' and a certificate of inspection for the apiary they come from'),
    '. The buyer may have them inspected until {{inspection}}.',
  ),
)

/** The demo's template with line items, alternatives, phrases and blanks of every kind. */
export const colonySale: TemplateContent = {
  title: 'Colony sale',
  language: 'en-US',
  outline,
  roles: [
    {
      key: 'buyer',
      label: 'Buyer',
      shape: 'hexagon',
      order: 1,
      fill: {
        rule: 'record',
        name: 'buyer.contact',
        email: 'buyer.email',
        title: null,
        company: 'buyer.name',
        phone: 'buyer.phone',
      },
    },
    { key: 'seller', label: 'Larkmere', shape: 'square', order: 2, fill: { rule: 'whoever sends' } },
  ],
  initialsOnEveryPage: [],
  look: 'office',
  page: {
    paper: 'us-letter',
    header: '{{title}} || {{buyer.name}}',
    footer: '{{number}} || Page {{page}} of {{pages}}',
  },
  tickGroups: [{ name: 'What was seen', least: 1, most: null }],
  document: {
    type: 'doc',
    content: [
      w.heading(1, 'Colony sale'),
      w.paragraph(
        'between **Larkmere Pollination**, 2 Apiary Lane, Larkmere, Oregon (the “Keeper”), represented by {{signer.seller.full_name}}, and **{{buyer.name}}**, {{buyer.address}} (the “Buyer”), represented by {{signer.buyer.full_name}}.',
      ),
      w.heading(2, 'What is sold'),
      w.clause(
        '**Lots.** The Keeper sells {{colonies | in words with figure}} colonies of grade {{grades}} in these lots:',
        w.table(
          [210, 60, 70, 85, 70, 95],
          w.row(['Item', 'Grade', 'Quantity', 'Price', 'Discount', 'Amount'], true, [
            'left',
            'center',
            'right',
            'right',
            'right',
            'right',
          ]),
          w.each(
            'lots',
            w.row(
              [
                '{{lots.kind}}',
                '{{lots.grade}}',
                '{{lots.quantity}}',
                '{{lots.price}}',
                '{{lots.discount}}',
                '{{lots.amount}}',
              ],
              false,
              ['left', 'center', 'right', 'right', 'right', 'right'],
            ),
          ),
          w.row(['Sum of the lots', '', '', '', '', '{{lots_totals.subtotal}}'], false, [
            'left',
            'left',
            'left',
            'left',
            'left',
            'right',
          ]),
          w.row(['Discount on the whole', '', '', '', '', '{{lots_totals.discount}}'], false, [
            'left',
            'left',
            'left',
            'left',
            'left',
            'right',
          ]),
          w.each(
            'lots_taxes',
            w.row(
              ['Tax at {{lots_taxes.rate}} on {{lots_taxes.base}}', '', '', '', '', '{{lots_taxes.tax}}'],
              false,
              ['left', 'left', 'left', 'left', 'left', 'right'],
            ),
          ),
          w.row(['**Total**', '', '', '', '', '**{{lots_totals.gross}}**'], false, [
            'left',
            'left',
            'left',
            'left',
            'left',
            'right',
          ]),
        ),
        w.paragraph('In words: {{total_in_words}}.'),
      ),
      w.clause(
        '**Handover.** The Keeper hands the colonies over on {{handover}} at the Keeper’s yard, in the morning before they fly.',
      ),
      warranty,
      w.heading(2, 'Price and payment'),
      payment,
      w.otherwise(
        'payment = "in instalments"',
        w.clause(
          '**Instalments.** The price is paid in {{instalments | in words}} instalments of {{instalment}}, the first at handover, the others on the last day of each month that follows. What rounding leaves is paid with the last.',
        ),
      ),
      w.otherwise(
        null,
        w.clause('**Payment at handover.** The price is paid when the colonies are handed over.'),
      ),
      w.clause(
        w.paragraph(
          '**Transfer of title.** The colonies belong to the Buyer once the price is paid. ',
          w.phrase(
            'payment = "in advance"',
            'Where the payment under clause ',
            w.reference(payment),
            ' is late, the handover moves by as many days.',
          ),
        ),
      ),
      w.heading(2, 'To be filled in at handover'),
      w.paragraph(
        'Colonies counted: ',
        w.blank('number', 'buyer', 'Colonies counted', {
          check: 'value >= 0 and value <= 1000',
          message: 'A number of colonies from 0 to 1000.',
        }),
      ),
      w.paragraph(
        'Seen: ',
        w.blank('tick', 'buyer', 'Queens', { required: false, group: 'What was seen' }),
        ' queens ',
        w.blank('tick', 'buyer', 'Brood', { required: false, group: 'What was seen' }),
        ' brood ',
        w.blank('tick', 'buyer', 'Stores', { required: false, group: 'What was seen' }),
        ' stores',
      ),
      w.paragraph(
        'Carried in: ',
        w.blank('choice', 'buyer', 'Carried in', { options: ['own truck', 'hired truck', 'by the Keeper'] }),
      ),
      w.paragraph(
        'Telephone on the day: ',
        w.blank('text', 'buyer', 'Telephone', { prefill: 'buyer.phone', required: false }),
      ),
      w.paragraph(
        'Registration of the yard, as a file: ',
        w.blank('file', 'buyer', 'Registration', { required: false }),
      ),
      w.signatures('buyer', 'seller'),
    ],
  },
  sending: {
    agreementName: 'Colony sale, {{buyer.name}}',
    fileName: '{{number}} colony sale {{buyer.name}}',
    subject: 'Sale of {{colonies}} colonies to {{buyer.name}}',
    message: 'The sale agreement for {{buyer.name}} is ready to sign. Handover is on {{handover}}.',
    signByDays: 10,
    remindAfter: [3, 7],
    remindBefore: [1],
    copies: ['yard@larkmere.example'],
  },
}

const BUYERS = [
  ['Fennel Bottom Farm', 'Ottilie Crane', '3 Mill Row, Sedge Harbor'],
  ['Harrow Lane Apiary', 'Bram Tolliver', '81 Harrow Lane, Pell'],
  ['Quillon Valley Bees', 'Sabine Quill', '7 Orchard Close, Tansy Falls'],
  ['Marlpit Gardens', 'Edda Marl', '12 Marlpit Road, Hollin'],
  [
    'The Apiary of Saint Ambrose-under-the-Long-Meadow',
    'Constance Featherstone-Haugh',
    '1 Long Meadow, Nether Wending',
  ],
  ['Copperbeech Growers', 'Ivo Sand', '26 Beech Street, Larkmere'],
] as const
const ITEMS = [
  ['Nucleus colony, five frames', 168.5],
  ['Full colony, ten frames', 245],
  ['Overwintered colony, twelve frames', 279.9],
  ['Mated queen', 38],
] as const
const PAYMENTS = ['at handover', 'in advance', 'in instalments'] as const

/** A sheet of colony sales with lots in numbered columns; made by rule, always the same. */
export function salesSheet(rows = 18): string {
  const lots = [1, 2, 3].flatMap((n) =>
    ['item', 'grade', 'quantity', 'price', 'discount', 'tax'].map((name) => `Lot ${n} ${name}`),
  )
  const head = [
    'Buyer',
    'Contact',
    'Contact mail address',
    'Contact telephone',
    'Address',
    'Day of handover',
    'Payment',
    'Number of instalments',
    'Discount on the whole',
    ...lots,
  ]
  const lines = Array.from({ length: rows }, (_, i) => {
    const [name, contact, address] = BUYERS[i % BUYERS.length]!
    const mail = `${contact.toLowerCase().replace(/[^a-z]+/g, '.')}@${name
      .toLowerCase()
      .replace(/[^a-z]+/g, '')
      .slice(0, 20)}.example`
    const payment = PAYMENTS[(i * 5 + 1) % 3]!
    const cells = [1, 2, 3].flatMap((n) => {
      if (n > 1 + (i % 3)) return ['', '', '', '', '', '']
      const [item, price] = ITEMS[(i + n) % ITEMS.length]!
      return [
        item,
        'ABC'[(i + n) % 3]!,
        String(((i * 7 + n * 5) % 23) + 2),
        price.toFixed(2),
        n === 2 ? '5' : '',
        (i + n) % 4 === 0 ? '0' : '6',
      ]
    })
    return [
      name,
      contact,
      mail,
      i % 4 === 3 ? '' : `+1 503 555 01${String(10 + i)}`,
      address,
      `2027-05-${String(3 + ((i * 3) % 26)).padStart(2, '0')}`,
      payment,
      payment === 'in instalments' ? '4' : '',
      i % 5 === 0 ? '2' : '',
      ...cells,
    ]
  })
  const quoted = (cell: string) => (/[",\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)
  return [head, ...lines].map((line) => line.map(quoted).join(',')).join('\r\n') + '\r\n'
}
