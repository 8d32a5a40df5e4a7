import type { TemplateContent } from '#core/document/template.ts'
import { named, roleOf, sending } from '#demo/season-packet.ts'
import { Writer } from '#demo/writing.ts'

// A written permission, as the season's packet had it before the printed form was laid over.

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
