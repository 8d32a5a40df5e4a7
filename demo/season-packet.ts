import type { TemplateContent } from '#core/document/template.ts'
import { seasonAgreement } from './season-agreement.ts'
import { Writer } from './writing.ts'

// The further documents of the season's packet; they read the same record as the agreement.

const named = (names: readonly string[]) => seasonAgreement.outline.filter(({ name }) => names.includes(name))
const roleOf = (key: string) => seasonAgreement.roles.filter((role) => role.key === key)
const sending = (name: string): TemplateContent['sending'] => ({
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

const a = new Writer('a')

export const siteAccess: TemplateContent = {
  title: 'Site access permission',
  language: 'en-US',
  outline: named([
    'season',
    'grower.name',
    'grower.contact',
    'grower.email',
    'orchard.county',
    'orchard.state',
    'acres',
    'bloom.start',
    'bloom.end',
    'delivery.start',
    'removal',
    'land.leased',
    'landowner',
  ]),
  roles: roleOf('grower'),
  initialsOnEveryPage: [],
  document: {
    type: 'doc',
    content: [
      a.heading(1, 'Site access permission'),
      a.paragraph(
        'The grower, **{{grower.name}}**, permits Larkmere Pollination and its drivers to enter the orchard of {{acres}} acres in {{orchard.county}} County, {{orchard.state}}, at any hour between {{delivery.start}} and {{removal}}, to bring, tend and remove colonies.',
      ),
      a.when(
        'land.leased',
        a.clause('**Leased land.** {{landowner}}, who owns the land, has been told of this permission.'),
      ),
      a.clause(
        '**Gates.** Gates are left as they are found. Codes and keys are used for no other purpose and are given back on the day of removal.',
      ),
      a.clause(
        '**Stands.** The stands are those of the map that belongs to the agreement of the season {{season}}.',
      ),
      a.signatures('grower'),
    ],
  },
  sending: sending('Site access permission'),
}
