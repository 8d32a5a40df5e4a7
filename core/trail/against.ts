import { hashOf } from './trail.ts'
import type { TrailEntry } from './trail.ts'

/** An agreement as its record has it, to be held against its trail. */
export interface Recorded {
  readonly length: number
  readonly head: string
  readonly revision: number
  readonly data: unknown
  /** SHA-256 of the present revision's document, and of the executed file. */
  readonly document: string
  readonly executed: string | null
  readonly state: string
  readonly parties: readonly RecordedParty[]
}

export interface RecordedParty {
  readonly role: string
  readonly label: string
  readonly name: string
  readonly email: string
  readonly title: string
  readonly signed: boolean
  /** What they put into their blanks. */
  readonly values: readonly { readonly blankId: string; readonly value: unknown }[]
}

/** What a trail keeps of the people an agreement was made for. */
export const peopleHash = (
  parties: readonly Pick<RecordedParty, 'role' | 'name' | 'email' | 'title'>[],
): string =>
  hashOf(
    parties
      .map(({ role, name, email, title }) => ({ role, name, email, title }))
      .sort((a, b) => (a.role < b.role ? -1 : 1)),
  )

/** What a trail keeps of what a signer filled in, the hashes of files handed in among it. */
export const valuesHash = (values: RecordedParty['values']): string =>
  hashOf(
    values.map(({ blankId, value }) => ({ blankId, value })).sort((a, b) => (a.blankId < b.blankId ? -1 : 1)),
  )

const HEX = /^[0-9a-f]{64}$/

/** Acts by which somebody has done their part. */
const SIGNED: ReadonlySet<string> = new Set(['signed', 'assented', 'signed on paper'])

/** How the record differs from what its trail says, in words; nothing where they agree. The chain itself is not looked at. */
export function differences(entries: readonly TrailEntry[], recorded: Recorded): readonly string[] {
  const found: string[] = []
  const last = entries.at(-1)
  if (entries.length !== recorded.length || last?.hash !== recorded.head)
    found.push(
      entries.length < recorded.length
        ? `${recorded.length - entries.length} of ${recorded.length} entries are missing at the end of the trail.`
        : 'The trail ends otherwise than the agreement says.',
    )
  const made = entries.findLast(
    ({ detail }) => HEX.test(String(detail['document'] ?? '')) && 'people' in detail,
  )
  if (made) {
    if (made.detail['document'] !== recorded.document)
      found.push('The document is not the one that the trail tells of.')
    // Who they are may have been changed since, and the trail then tells so.
    const people = entries.findLast(({ detail }) => 'people' in detail)!
    if (people.detail['people'] !== peopleHash(recorded.parties))
      found.push('A party’s name, mail address or role was changed after the agreement was made.')
    if (made.detail['data'] !== hashOf(recorded.data))
      found.push('The agreement’s data were changed after it was made.')
  }
  for (const party of recorded.parties) {
    const signed = entries.findLast(
      ({ act, detail }) =>
        SIGNED.has(act) && detail['role'] === party.label && detail['revision'] === recorded.revision,
    )
    if (party.signed && !signed && entries.some(({ act, detail }) => SIGNED.has(act) && 'values' in detail))
      found.push(`${party.label} is recorded as having signed, and the trail does not tell of it.`)
    if (signed && !party.signed) found.push(`${party.label} signed by the trail, and not by the record.`)
    if (signed && signed.detail['values'] !== valuesHash(party.values))
      found.push(`What ${party.label} filled in was changed after signing.`)
  }
  const executed = entries.findLast(({ act }) => act === 'executed')
  if (executed && executed.detail['file'] !== recorded.executed)
    found.push('The executed file is not the one that the trail tells of.')
  if (recorded.state === 'executed' && !executed)
    found.push('It is recorded as executed, and the trail does not tell of it.')
  return found
}
