import type { TemplateContent } from '#core/document/template.ts'
import { seasonAgreement } from './season-agreement.ts'
import { Writer } from './writing.ts'

// The further documents of the season's packet; they read the same record as the agreement.

export const named = (names: readonly string[]) =>
  seasonAgreement.outline.filter(({ name }) => names.includes(name))
export const roleOf = (key: string) => seasonAgreement.roles.filter((role) => role.key === key)
export const sending = (name: string): TemplateContent['sending'] => ({
  ...seasonAgreement.sending,
  agreementName: `${name}, {{grower.name}}, {{season}}`,
  subject: `${name} for {{season}}`,
  message: `The ${name.toLowerCase()} for {{grower.name}} is ready to sign.`,
})

const p = new Writer('p')

export const priceSchedule: TemplateContent = {
  title: 'Price schedule',
  language: 'en-US',
  outline: named([
    'season',
    'grower.name',
    'grower.contact',
    'grower.email',
    'colonies',
    'price_per_colony',
    'discount',
    'gross',
    'discount_amount',
    'total',
    'payment_days',
  ]),
  roles: roleOf('grower'),
  initialsOnEveryPage: [],
  document: {
    type: 'doc',
    content: [
      p.heading(1, 'Price schedule'),
      p.paragraph('for **{{grower.name}}** and the season {{season}}.'),
      p.table(
        [320, 160],
        p.row(['Item', 'Amount'], true, ['left', 'right']),
        p.row(['{{colonies | whole}} colonies at {{price_per_colony}}', '{{gross}}'], false, [
          'left',
          'right',
        ]),
        p.row(['Discount', '{{discount_amount}}'], false, ['left', 'right']),
        p.row(['**Total**', '**{{total}}**'], false, ['left', 'right']),
      ),
      p.paragraph('Payable within {{payment_days}} days of delivery.'),
      p.paragraph('Seen by the grower: ', p.blank('initials', 'grower', 'Initials')),
    ],
  },
  sending: sending('Price schedule'),
}
