import type { TemplateContent } from '#core/document/template.ts'
import { seasonAgreement } from './season-agreement.ts'
import { Writer } from './writing.ts'

const w = new Writer('n')
const READS = [
  'season',
  'grower.name',
  'grower.contact',
  'grower.email',
  'orchard.county',
  'colonies',
  'bloom.start',
  'delivery.start',
  'delivery.end',
]

/** A letter that nobody signs: when the colonies come. Its words are the mail itself. */
export const arrivalNotice: TemplateContent = {
  title: 'Notice of arrival',
  language: 'en-US',
  outline: seasonAgreement.outline.filter(({ name }) => READS.includes(name)),
  roles: seasonAgreement.roles.filter(({ key }) => key === 'grower'),
  initialsOnEveryPage: [],
  document: {
    type: 'doc',
    content: [
      w.heading(1, 'Your colonies for the season {{season}}'),
      w.paragraph('{{grower.contact}},'),
      w.paragraph(
        'the **{{colonies | whole}} colonies** for {{grower.name}} in {{orchard.county}} County arrive between **{{delivery.start | long}}** and **{{delivery.end | long}}**. They come by night.',
      ),
      w.paragraph(
        'Keep the places clear that we marked last autumn, and leave the gate unlocked in these nights.',
      ),
      w.paragraph('Larkmere Pollination, contract desk'),
    ],
  },
  sending: {
    ...seasonAgreement.sending,
    notice: 'mail text',
    agreementName: 'Notice of arrival, {{grower.name}}, {{season}}',
    fileName: 'Notice of arrival {{grower.name}} {{season}}',
    subject: 'Your colonies arrive from {{delivery.start}}',
    message: '',
    copies: [],
  },
}
