import type { Organisation } from '#core/organisation/organisation.ts'

/** The demo's company; made up. */
export const organisation: Organisation = {
  name: 'Larkmere Pollination',
  address: '2 Apiary Lane\nLarkmere, Oregon',
  place: 'Larkmere, Oregon',
  language: 'en-US',
  timeZone: 'America/Los_Angeles',
  sender: 'desk@larkmere.example',
  synonyms: [
    ['hives', 'colonies', 'count'],
    ['customer', 'grower', 'orchard', 'buyer', 'client'],
    ['owner', 'landowner'],
    ['leased', 'lease', 'rented'],
  ],
  city: 'Larkmere',
  postCode: '97000',
  taxNumber: '4471902-6',
  taxScheme: 'STT',
}
