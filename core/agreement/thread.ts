import type { StepState } from '../states/all.ts'
import type { AgreementState } from './states.ts'

/** One knot of a thread: an approval (square) or a signature (circle). */
export interface Knot {
  readonly shape: 'square' | 'circle'
  readonly label: string
  /** `holds`: this one has the agreement now, `since` when (ISO 8601). `stopped`: ended before it came to this one. */
  readonly status: 'done' | 'holds' | 'to come' | 'refused' | 'stopped'
  readonly since: string | null
}

/** An approval as the thread draws it; `since` in ISO 8601. */
export interface ThreadStep {
  readonly approver: string
  readonly state: StepState
  /** Those of one number stand side by side. */
  readonly order: number
  readonly since: string
}

/** A party as the thread draws it. Times in ISO 8601; null: it has not happened. */
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
  const columns = [...new Set(steps.map(({ order }) => order))].sort((a, b) => a - b)
  const approvals = columns.map((order) =>
    steps.filter((step) => step.order === order).map((step) => approvalKnot(state, step)),
  )
  const orders = [...new Set(parties.map((party) => party.order))].sort((a, b) => a - b)
  const signatures = orders.map((order) =>
    parties.filter((party) => party.order === order).map((party) => signatureKnot(state, party)),
  )
  return [...approvals, ...signatures]
}

const approvalKnot = (state: AgreementState, step: ThreadStep): Knot => ({
  shape: 'square',
  label: step.approver,
  status:
    step.state === 'approved'
      ? 'done'
      : step.state === 'returned'
        ? 'refused'
        : state !== 'in approval' || step.state === 'fallen'
          ? 'stopped'
          : step.state === 'waiting'
            ? 'holds'
            : 'to come',
  since: step.state === 'waiting' ? step.since : null,
})

function signatureKnot(state: AgreementState, party: ThreadParty): Knot {
  const status =
    party.signedAt || (state === 'delivered' && party.invitedAt)
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
