import { SheetWriter } from './sheet-writer.ts'

// The permission that Larkmere’s yards are entered with, as the county’s growers print it. Its second version is two pages longer:
// what was one line about safety has become a chapter, and the signatures have moved.

const RULES = [
  'Vehicles keep to the tracks that are marked on the plan. Gates are left as they were found.',
  'Colonies are set down at the places that are marked on the plan, at least 30 feet from any dwelling and any public way.',
  'Whoever handles colonies wears protective clothing. Nobody works alone at night.',
  'Spraying within a mile of the colonies is announced 48 hours before it begins.',
  'Smokers are put out before they are left, and no fire is made between May and October.',
  'Injuries and damage are told to the grower on the same day, in writing.',
]

export async function siteAccessPdf(version: 1 | 2 = 1): Promise<Uint8Array> {
  const sheet = await SheetWriter.open()
  sheet
    .title('Site access permission')
    .paragraph(
      'The grower named below permits the keeper to enter the orchard with vehicles and colonies for the time of bloom, and to place, tend and fetch the colonies there.',
    )
  sheet.ruled('Grower:').down(22)
  sheet.ruled('Orchard:', 72, 340).ruled('County:', 350).down(22)
  sheet.ruled('Season:', 72, 240).ruled('Colonies:', 260, 400).ruled('State:', 420).down(26)
  sheet.heading('Access')
  sheet.tick('The land is leased; the owner has agreed').down(18)
  sheet.tick('Night delivery is permitted').down(18)
  sheet.ruled('Gate code:', 72, 240).down(24)
  if (version === 1)
    sheet
      .heading('Safety')
      .paragraph(
        'Vehicles keep to the tracks. Protective clothing is worn. Spraying is announced 48 hours before.',
      )
  else {
    for (let chapter = 1; chapter <= 9; chapter++) {
      sheet.heading(`Safety, part ${chapter}`)
      for (const rule of RULES) sheet.paragraph(rule)
    }
  }
  sheet.heading('Plan of the site').paragraph('The plan is handed over with this permission, or drawn here:')
  sheet.down(60)
  if (sheet.y > 600) sheet.nextPage()
  sheet.paragraph('The permission ends with the season. It can be taken back in writing at any time.')
  sheet.down(34)
  sheet.under('Signature of the grower', 72, 290).under('Date', 320, 420).down(44)
  sheet.under('Signature for the keeper', 72, 290).under('Date', 320, 420)
  return sheet.bytes()
}
