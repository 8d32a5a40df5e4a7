import { checkInFingerprint } from '../ceremony/parties.ts'
import { MOMENT_OF } from './acts.ts'
import { hashOf, type TrailEntry } from './trail.ts'
import type { PlacedBlank } from '../agreement/signing.ts'

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
  readonly number: string
  /** When it has to be signed by, ISO 8601; null: it is not out. */
  readonly signBy: string | null
  /** When it goes out by itself, ISO 8601. */
  readonly goesAt: string | null
  /** SHA-256 of the present revision's blanks, and of whoever shaped the agreement. */
  readonly blanks: string
  readonly shaped: string
  readonly parties: readonly RecordedParty[]
  /** Approvals of the present revision's last round. */
  readonly steps: readonly RecordedStep[]
}

/** An approval as its row has it, to be held against the trail. */
export interface RecordedStep {
  readonly approver: string
  readonly state: string
  /** An approval of an earlier round that counts on. */
  readonly kept: boolean
  /** `mayHash` of those who may decide it. */
  readonly may: string
}

/** How a party takes part: what decides who may sign, when, and by which proof. */
export interface PartySettings {
  readonly kind: string
  readonly order: number
  readonly check: string
  readonly codeHash: string | null
  readonly phone: string
  readonly mayHandOver: boolean
}

/** A party as their row has them, to be held against the trail. */
export interface RecordedParty {
  readonly declined: boolean
  readonly settings: PartySettings
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

/** What a trail keeps of what is to be filled in, and where. */
export const blanksHash = (blanks: readonly PlacedBlank[]): string =>
  hashOf(blanks as unknown as Parameters<typeof hashOf>[0])

/** What a trail keeps of whoever had a part in what an agreement says. */
export const shapedHash = (people: readonly string[]): string => hashOf([...people].sort())

/** What a trail keeps of how parties take part. */
export const settingsHash = (
  parties: readonly { readonly role: string; readonly settings: PartySettings }[],
): string =>
  hashOf(
    parties
      .map(({ role, settings: { kind, order, check, codeHash, phone, mayHandOver } }) => ({
        role,
        kind,
        order,
        check: checkInFingerprint(check),
        codeHash,
        phone,
        mayHandOver,
      }))
      .sort((a, b) => (a.role < b.role ? -1 : 1)),
  )

/** Acts by which an agreement is where its record says that it is. */
const STATE_OF: Readonly<Record<string, string>> = {
  ...MOMENT_OF,
  returned: 'returned',
  'taken back': 'draft',
  // Out again, with another date.
  'date to sign by changed': 'out',
  cleared: 'cleared',
}

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
      found.push('A party’s name, email address or role was changed after the agreement was made.')
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
  found.push(...settledOtherwise(entries, recorded))
  const executed = entries.findLast(({ act }) => act === 'executed')
  if (executed && executed.detail['file'] !== recorded.executed)
    found.push('The executed file is not the one that the trail tells of.')
  if (recorded.state === 'executed' && !executed)
    found.push('It is recorded as executed, and the trail does not tell of it.')
  return found
}

/** What was decided along the way: numbers, dates, states, approvals, and how parties take part. */
function settledOtherwise(entries: readonly TrailEntry[], recorded: Recorded): readonly string[] {
  const found: string[] = []
  const last = (...acts: readonly string[]) => entries.findLast(({ act }) => acts.includes(act))
  const kept = (name: string) => entries.findLast(({ detail }) => name in detail)?.detail[name]
  const made = entries.find(({ act }) => act === 'made')?.detail['number']
  if (made !== undefined && made !== recorded.number)
    found.push('Its number is not the one it was made under.')
  for (const [name, now, says] of [
    ['blanks', recorded.blanks, 'What is to be filled in was changed after the agreement was made.'],
    ['shaped', recorded.shaped, 'Who shaped the agreement was changed, and with it who may approve it.'],
  ] as const) {
    const before = kept(name)
    if (before !== undefined && before !== now) found.push(says)
  }
  const state = entries.findLast(({ act }) => act in STATE_OF)
  const until = recorded.state === 'out' ? last('sent', 'sent unread', 'date to sign by changed') : undefined
  if (until && 'sign by' in until.detail && until.detail['sign by'] !== recorded.signBy)
    found.push('The date to sign by is not the one that the trail tells of.')
  const needsAct = Object.values(STATE_OF).includes(recorded.state) && recorded.state !== 'draft'
  if (state ? !fitsState(state.act, recorded.state, entries.slice(entries.indexOf(state) + 1)) : needsAct)
    found.push(`It is recorded as ${recorded.state}, and the trail does not tell of it.`)
  if (recorded.goesAt !== null && last('time to go set')?.detail['at'] !== recorded.goesAt)
    found.push('It goes by itself at another time than was set.')
  for (const { approver, state: stands, kept: counts, may } of recorded.steps) {
    const asked = entries.findLast(
      ({ act, detail }) => act === 'put to approval' && detail['approver'] === approver,
    )
    if (!asked && !counts) found.push(`${approver} is asked by the record, and not by the trail.`)
    if (asked && 'may' in asked.detail && asked.detail['may'] !== may)
      found.push(`Who may decide for ${approver} was changed.`)
    if (stands !== 'approved' && stands !== 'returned') continue
    const told = entries.some(
      ({ act, detail }) =>
        detail['as'] === approver &&
        (act === stands || (counts && ['approved', 'approval kept'].includes(act))),
    )
    if (!told)
      found.push(`${approver} is recorded as having ${stands} it, and the trail does not tell of it.`)
  }
  for (const { label, declined } of recorded.parties)
    if (declined && !entries.some(({ act, detail }) => act === 'declined' && detail['role'] === label))
      found.push(`${label} is recorded as having declined, and the trail does not tell of it.`)
  // Set again before it goes out once more.
  const settings = ['out', 'executed'].includes(recorded.state) ? kept('settings') : undefined
  if (settings !== undefined && settings !== settingsHash(recorded.parties))
    found.push('How a party takes part, or by which proof, was changed after it was sent.')
  return found
}

/** Whether a state is the one that an act led to, or one that what came after it leads on to. */
function fitsState(act: string, state: string, after: readonly TrailEntry[]): boolean {
  const led = STATE_OF[act]
  if (led === state) return true
  // Revised, or put to approval again: the states between are those of a draft and of its approvals.
  const revised = after.some(({ act: later }) => /^(made again|wording|put to approval)/.test(later))
  return (
    ['draft', 'in approval', 'cleared'].includes(state) && (revised || ['draft', 'returned'].includes(led!))
  )
}
