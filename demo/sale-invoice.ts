import type { TemplateContent } from '#core/document/template.ts'
import { colonySale } from './colony-sale.ts'
import { field, Writer } from './writing.ts'

const w = new Writer('i')
const READS = [
  'buyer.name',
  'buyer.contact',
  'buyer.email',
  'buyer.phone',
  'buyer.address',
  'handover',
  'overall_discount',
  'lots',
  'total_in_words',
]
const right = ['left', 'right', 'right', 'right', 'right'] as const

/** What follows a colony sale: the bill for the same lots, with numbers of its own series. Nobody signs it. */
export const saleInvoice: TemplateContent = {
  ...colonySale,
  title: 'Colony sale invoice',
  outline: [
    ...colonySale.outline.filter(({ name }) => READS.includes(name)),
    field('agreement.number', 'Agreement', 'text', { example: 'LP-0001' }),
    field('agreement.day', 'Day of the agreement', 'date', { example: '2027-04-20', format: 'long' }),
    field('due', 'To be paid until', 'date', {
      computed: 'add business days(agreement.day, 20)',
      format: 'long',
    }),
  ],
  roles: colonySale.roles.filter(({ key }) => key === 'buyer'),
  tickGroups: [],
  document: {
    type: 'doc',
    content: [
      w.heading(1, 'Invoice'),
      w.paragraph('to **{{buyer.name}}**, {{buyer.address}}'),
      w.paragraph(
        'for the colonies of agreement {{agreement.number}} of {{agreement.day}}, handed over on {{handover | long}}.',
      ),
      w.table(
        [250, 75, 85, 80, 100],
        w.row(['Item', 'Quantity', 'Price', 'Discount', 'Amount'], true, [...right]),
        w.each(
          'lots',
          w.row(
            ['{{lots.kind}}', '{{lots.quantity}}', '{{lots.price}}', '{{lots.discount}}', '{{lots.amount}}'],
            false,
            [...right],
          ),
        ),
        w.row(['Discount on the whole', '', '', '', '{{lots_totals.discount}}'], false, [...right]),
        w.each(
          'lots_taxes',
          w.row(
            ['Tax at {{lots_taxes.rate}} on {{lots_taxes.base}}', '', '', '', '{{lots_taxes.tax}}'],
            false,
            [...right],
          ),
        ),
        w.row(['**To be paid until {{due}}**', '', '', '', '**{{lots_totals.gross}}**'], false, [...right]),
      ),
      w.paragraph('In words: {{total_in_words}}.'),
      w.paragraph('Larkmere Pollination, 2 Apiary Lane, Larkmere, Oregon'),
    ],
  },
  sending: {
    ...colonySale.sending,
    notice: 'attachment',
    agreementName: 'Invoice, {{buyer.name}}',
    fileName: '{{number}} invoice {{buyer.name}}',
    subject: 'Invoice for {{agreement.number}}',
    message: 'The invoice for agreement {{agreement.number}} is attached. It is due on {{due}}.',
    copies: ['ledger@larkmere.example'],
  },
}
