import type { AgreementState } from './states.ts'

/** One knot of a thread: an approval (square) or a signature (circle). */
export interface Knot {
  readonly shape: 'square' | 'circle'
  readonly label: string
  /** `holds`: this one has the agreement now, `since` when (ISO 8601). `stopped`: ended before it came to this one. */
  readonly status: 'done' | 'holds' | 'to come' | 'refused' | 'stopped'
  readonly since: string | null
}

export interface ThreadStep {
  readonly approver: string
  readonly state: 'waiting' | 'approved' | 'returned'
  readonly since: string
}

export interface ThreadParty {
  readonly name: string
  readonly order: number
  readonly invitedAt: string | null
  readonly signedAt: string | null
  readonly declinedAt: string | null
}

/** The drawing's columns in order; knots of one column stand side by side (they act at the same time). */
export function thread(
  state: AgreementState,
  steps: readonly ThreadStep[],
  parties: readonly ThreadParty[],
): readonly (readonly Knot[])[] {
  const approvals = steps.map((step): Knot => ({
    shape: 'square',
    label: step.approver,
    status:
      step.state === 'approved'
        ? 'done'
        : step.state === 'returned'
          ? 'refused'
          : state === 'in approval'
            ? 'holds'
            : 'stopped',
    since: step.state === 'waiting' ? step.since : null,
  }))
  const orders = [...new Set(parties.map((party) => party.order))].sort((a, b) => a - b)
  const signatures = orders.map((order) =>
    parties.filter((party) => party.order === order).map((party) => signatureKnot(state, party)),
  )
  return [...(approvals.length ? [approvals] : []), ...signatures]
}

function signatureKnot(state: AgreementState, party: ThreadParty): Knot {
  const status = party.signedAt
    ? 'done'
    : party.declinedAt
      ? 'refused'
      : ['declined', 'lapsed', 'withdrawn'].includes(state)
        ? 'stopped'
        : state === 'out' && party.invitedAt
          ? 'holds'
          : 'to come'
  return { shape: 'circle', label: party.name, status, since: status === 'holds' ? party.invitedAt : null }
}
