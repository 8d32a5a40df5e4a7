/** The states of an agreement; stored, so a name never changes. */
export const STATES = [
  'draft',
  'in approval',
  'returned',
  'cleared',
  'out',
  'executed',
  'delivered',
  'declined',
  'lapsed',
  'withdrawn',
] as const
export type AgreementState = (typeof STATES)[number]

/** What changes an agreement’s state. */
export const MOVES = [
  'route',
  'approve',
  'return',
  'send',
  'deliver',
  'execute',
  'decline',
  'lapse',
  'withdraw',
  'take back',
  'revise',
  'extend',
] as const
export type Move = (typeof MOVES)[number]

/** What a move may depend on, beyond the state itself. */
export interface Facts {
  /** Approvals not yet given. */
  readonly openSteps: number
  /** Signers who have not signed. */
  readonly unsigned: number
}

/** The state that a move leads to, or why it cannot be made now. */
export type Moved =
  { readonly ok: true; readonly state: AgreementState } | { readonly ok: false; readonly problem: string }

const from: Record<Move, readonly AgreementState[]> = {
  route: ['draft', 'returned'],
  approve: ['in approval'],
  return: ['in approval'],
  send: ['cleared'],
  deliver: ['cleared'],
  execute: ['out'],
  decline: ['out'],
  lapse: ['out'],
  withdraw: ['draft', 'in approval', 'returned', 'cleared', 'out', 'declined', 'lapsed'],
  'take back': ['out', 'declined', 'lapsed'],
  extend: ['out', 'lapsed'],
  revise: ['draft', 'in approval', 'returned', 'cleared'],
}

/** The state a move leads to, or why it cannot be made. */
export function move(state: AgreementState, made: Move, facts: Facts): Moved {
  if (!from[made].includes(state)) return { ok: false, problem: refusal(state, made) }
  // Once all have signed, it only remains to seal it.
  if (state === 'out' && facts.unsigned === 0 && made !== 'execute')
    return {
      ok: false,
      problem: `Everyone has signed; the agreement is being sealed and cannot be ${done[made]}.`,
    }
  const to = (next: AgreementState): Moved => ({ ok: true, state: next })
  switch (made) {
    case 'route':
    case 'approve':
      return to(facts.openSteps > 0 ? 'in approval' : 'cleared')
    case 'return':
      return to('returned')
    case 'send':
      return facts.unsigned > 0 ? to('out') : { ok: false, problem: 'Nobody is there to sign.' }
    case 'deliver':
      return facts.unsigned > 0
        ? { ok: false, problem: 'Somebody has to sign it; it is sent for signature.' }
        : to('delivered')
    case 'execute':
      return facts.unsigned > 0
        ? { ok: false, problem: `${facts.unsigned} of the signers have not signed.` }
        : to('executed')
    case 'decline':
      return to('declined')
    case 'lapse':
      return to('lapsed')
    case 'withdraw':
      return to('withdrawn')
    case 'extend':
      return to('out')
    case 'take back':
    case 'revise':
      return to('draft')
  }
}

const done: Record<Move, string> = {
  route: 'put to approval',
  approve: 'approved',
  return: 'returned',
  send: 'sent',
  deliver: 'delivered',
  execute: 'executed',
  decline: 'declined',
  lapse: 'lapsed',
  withdraw: 'withdrawn',
  'take back': 'taken back',
  revise: 'revised',
  extend: 'given another date',
}

const refusal = (state: AgreementState, made: Move) =>
  `An agreement that is ${stateWord(state)} cannot be ${done[made]}; it has to be ${from[made].map(stateWord).join(' or ')} first.`

/** States as they are said where their name would not be understood. */
const SPOKEN: Partial<Record<AgreementState, string>> = { cleared: 'ready to send' }

/** A state as it is said. */
export const stateWord = (state: AgreementState): string => SPOKEN[state] ?? state

/** The state with what its mail came to: of a notice its mail is all there is. `undelivered`: the last to somebody came back. */
export const describeState = (state: AgreementState, undelivered: boolean): string =>
  undelivered
    ? state === 'delivered'
      ? 'not delivered'
      : `${stateWord(state)}, mail came back`
    : stateWord(state)

/** It goes on no more; what was refused or has lapsed may be taken up again. */
export const isEnded = (state: AgreementState): boolean =>
  ['executed', 'delivered', 'declined', 'lapsed', 'withdrawn'].includes(state)
