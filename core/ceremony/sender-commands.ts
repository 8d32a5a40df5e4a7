import { type AgreementState, type Facts, move, type Move } from '../agreement/states.ts'
import { hasToAct, type Turn } from './parties.ts'

/** What the sender has to say with a course. */
export type Asks = 'nothing' | 'reason' | 'day' | 'address' | 'person' | 'code'

/** One thing that the sender can do with an agreement that has gone out, or with one of its parties. */
export interface SenderCommand {
  readonly name: string
  readonly label: string
  readonly of: 'agreement' | 'party'
  /** The move of the state it makes; null: the state stays, and has to be one of `from`. */
  readonly move: Move | null
  readonly from: readonly AgreementState[]
  readonly asks: Asks
  /** What becomes of signatures that were given. */
  readonly signatures: 'stand' | 'are void'
  /** What it does, said before it is done, with what the signers see of it. */
  readonly says: string
  /** It cannot be taken back. */
  readonly final?: true
}

/** Every course, in the order in which they are offered. */
export const COURSES = [
  {
    name: 'remind',
    label: 'Remind',
    of: 'party',
    move: null,
    from: ['out'],
    asks: 'nothing',
    signatures: 'stand',
    says: 'They get the mail again, with a link of its own.',
  },
  {
    name: 'correct address',
    label: 'Correct the address',
    of: 'party',
    move: null,
    from: ['out', 'delivered'],
    asks: 'address',
    signatures: 'stand',
    says: 'What was sent to the old address leads to nothing any more; it goes to the new address at once.',
  },
  {
    name: 'replace signer',
    label: 'Replace',
    of: 'party',
    move: null,
    from: ['out'],
    asks: 'person',
    signatures: 'stand',
    says: 'The link of the one who was to sign is void at once, and what they had filled in is gone. The other one is invited.',
  },
  {
    name: 'new agreed code',
    label: 'Set a new agreed code',
    of: 'party',
    move: null,
    from: ['out'],
    asks: 'code',
    signatures: 'stand',
    says: 'The code before it does not count any more. Tell them the new one yourself, not by the mail that the link came by.',
  },
  {
    name: 'extend',
    label: 'Change the date to sign by',
    of: 'agreement',
    move: 'extend',
    from: ['out', 'lapsed'],
    asks: 'day',
    signatures: 'stand',
    says: 'Those who have not signed are told the new date. Where the old one has passed, links that were sent work again.',
  },
  {
    name: 'take back',
    label: 'Take back to revise',
    of: 'agreement',
    move: 'take back',
    from: ['out', 'declined', 'lapsed'],
    asks: 'reason',
    signatures: 'are void',
    says: 'It is a draft again, as its next revision. Links that were sent say that it is being revised; what was signed counts no more, and approvals are asked for again where what they rest on changes.',
  },
  {
    name: 'withdraw',
    label: 'Withdraw',
    of: 'agreement',
    move: 'withdraw',
    from: ['draft', 'in approval', 'returned', 'cleared', 'out', 'declined', 'lapsed'],
    asks: 'nothing',
    signatures: 'are void',
    says: 'Nobody can sign it after that, and it cannot be taken up again. Its number is kept.',
    final: true,
  },
] as const satisfies readonly SenderCommand[]
export type SenderCommandName = (typeof COURSES)[number]['name']

/** A command by its name. */
export const courseOf = (name: SenderCommandName): SenderCommand =>
  COURSES.find((course) => course.name === name)!

/** Why a course cannot be taken now; null: it can. */
export function courseRefusal(name: SenderCommandName, state: AgreementState, facts: Facts): string | null {
  const course = courseOf(name)
  if (course.move) {
    const moved = move(state, course.move, facts)
    return moved.ok ? null : moved.problem
  }
  if (!course.from.includes(state))
    return `This is for an agreement that is ${course.from.join(' or ')}; it is ${state}.`
  return state === 'out' && facts.unsigned === 0
    ? 'Everyone has signed; the agreement is being sealed.'
    : null
}

/** The courses of an agreement as a whole that can be taken now. */
export const coursesNow = (state: AgreementState, facts: Facts): readonly SenderCommandName[] =>
  COURSES.filter(({ name }) => courseRefusal(name, state, facts) === null).map(({ name }) => name)

/** Whether a course concerns a party as far as they are. */
export function concerns(
  name: SenderCommandName,
  party: Pick<Turn, 'kind'> & {
    readonly invitedAt: unknown
    readonly signedAt: unknown
    readonly check: string
  },
): boolean {
  if (party.signedAt) return false
  // Who gets a copy only has an address; of a notice that is everyone.
  if (!hasToAct(party)) return name === 'correct address' && party.invitedAt !== null
  if (name === 'remind') return party.invitedAt !== null
  return name !== 'new agreed code' || party.check === 'agreed code'
}
