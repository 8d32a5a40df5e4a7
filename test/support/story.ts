import Papa from 'papaparse'
import { HEADINGS, soundRows } from '#demo/bookings.ts'
import { Client, eventually } from './client.ts'
import type { Running } from './running.ts'

// What several layers of tests tell of the demo's world: bookings as a file, and an agreement signed by all.

export const BOOKING_HEADER: readonly string[] = HEADINGS

/** Sound bookings as CSV, so many from the so-manieth on. */
export function seasonSheet(rows: number, from = 0): Uint8Array {
  const data = soundRows()
    .slice(from, from + rows)
    .map((row) => row.map((cell) => (cell !== null && typeof cell === 'object' ? cell.date : cell)))
  return new TextEncoder().encode(Papa.unparse({ fields: [...HEADINGS], data }))
}

/** The link in the newest mail to an address. */
export const linkFor = (client: Client, to: string): Promise<string> =>
  eventually(async () => {
    const [newest] = await client.call('receivedMails', { query: { search: to } })
    if (!newest) return null
    const mail = await client.call('receivedMail', { params: { id: newest.id } })
    return /\/sign\/([\w-]{43})/.exec(mail.text)?.[1]
  }, `a signing link for ${to}`)

/** Signs by a link; true where it was the last signature. `texts`: what is written into blanks of text, by their labels. */
export async function signAs(
  client: Client,
  token: string,
  texts: Readonly<Record<string, string>> = {},
): Promise<boolean> {
  const { blanks } = await client.call('signing', { params: { token } })
  await client.call('consent', { params: { token } })
  const values = Object.fromEntries(
    blanks
      .filter(({ kind }) => kind !== 'date')
      .map(({ id, kind, label }) => [
        id,
        kind === 'text'
          ? { kind, text: texts[label] ?? '' }
          : { kind: 'typed', text: kind === 'initials' ? 'ME' : 'Maud Ellery' },
      ]),
  )
  await client.call('fillBlanks', { params: { token }, body: { values } })
  return (await client.call('finishSigning', { params: { token } })).executed
}

/** Has an agreement approved where it waits for that, sends it, and signs for everyone; `seal`: waits for the seal. */
export async function signAll(
  running: Running,
  sender: Client,
  id: string,
  { seal }: { seal: boolean },
): Promise<void> {
  const read = () => sender.call('agreement', { params: { id } })
  const director = await Client.signedIn(running.url, 'silas.brandt')
  for (const step of (await read()).steps.filter(({ state }) => state === 'waiting'))
    await director.call('decide', { params: { id, step: step.id }, body: { decision: 'approve' } })
  await sender.call('sendAgreements', { body: { agreements: [id], unread: true } })
  for (let last = false; !last;) {
    const next = (await read()).parties.find(({ signedAt, invitedAt }) => invitedAt && !signedAt)!
    last = await signAs(new Client(running.url), await linkFor(sender, next.email))
  }
  if (seal) await eventually(async () => (await read()).state === 'executed', 'the seal', 60)
}

/** What each value at fault should have been, by the beginning of its place's name. */
const SOUND: readonly (readonly [string, string])[] = [
  ['Address', '1 Weir Road, Tansy Falls'],
  ['Contact’s mail address', 'found{row}@orchard.example'],
  ['First day of bloom', '2027-04-11'],
  ['Last day of bloom', '2027-04-30'],
  ['Price per colony', '195'],
  ['Colonies', '200'],
  ['Contact', 'Maud Ellery'],
  ['Land leased', 'no'],
  ['Crop', 'pear'],
  ['Payment days', '30'],
  ['Acres', '65'],
  ['Discount', '5'],
]

/** What is to stand in a place of the demo's bookings that is called `… of row 23`. */
export function soundValue(label: string): string {
  const value = SOUND.find(([name]) => label.startsWith(`${name} of row`))?.[1]
  if (value === undefined) throw new Error(`Nothing is known for ${label}`)
  return value.replace('{row}', /\d+$/.exec(label)![0])
}
