import type { Basis, RouteStep } from './route.ts'

/** An approval that was given. */
export interface GivenApproval {
  readonly id: string
  readonly approver: string
  readonly basis: Basis
  /** Whoever gave it. */
  readonly by: string
}

/** What becomes of a route that is worked out again. */
export interface RoutedAgain {
  /** The new steps, each with the approval that still counts for it. */
  readonly steps: readonly { readonly step: RouteStep; readonly kept: GivenApproval | null }[]
  /** Approvals that count no more, and why. */
  readonly fallen: readonly { readonly given: GivenApproval; readonly reason: string }[]
}

/**
 * Which approvals still count after an edit: those for the same values by the same approver, or by a person who may decide the
 * new step. Exactly those fall whose values changed, or which are asked for no more.
 */
export function routedAgain(
  given: readonly GivenApproval[],
  steps: readonly RouteStep[],
  mayDecide: (step: RouteStep, person: string) => boolean,
  shapedBy: readonly string[],
): RoutedAgain {
  const used = new Set<string>()
  // Whoever changed it since cannot have approved it.
  const standing = given.filter(({ by }) => !shapedBy.includes(by))
  const made = steps.map((step) => {
    const kept =
      standing.find(
        (each) =>
          !used.has(each.id) &&
          sameBasis(each.basis, step.basis) &&
          (each.approver === step.approver || mayDecide(step, each.by)),
      ) ?? null
    if (kept) used.add(kept.id)
    return { step, kept }
  })
  const fallen = given
    .filter(({ id }) => !used.has(id))
    .map((each) => ({
      given: each,
      reason: shapedBy.includes(each.by) ? 'They have changed it themselves since' : whyFallen(each, steps),
    }))
  return { steps: made, fallen }
}

const sameBasis = (a: Basis, b: Basis): boolean => {
  const keys = Object.keys(a)
  return keys.length === Object.keys(b).length && keys.every((key) => a[key]!.value === b[key]?.value)
}

function whyFallen(given: GivenApproval, steps: readonly RouteStep[]): string {
  const now = steps.find(({ approver }) => approver === given.approver)
  if (!now) return 'No rule asks for it any more'
  const changes = [...new Set([...Object.keys(given.basis), ...Object.keys(now.basis)])].flatMap((key) => {
    const [before, after] = [given.basis[key], now.basis[key]]
    if (before?.value === after?.value) return []
    const { label } = (after ?? before)!
    if (!before) return [`${label} ${after!.shown} asks for it now`]
    if (!after) return [`${label} no longer does`]
    return [
      before.shown === after.shown
        ? `${label} has changed`
        : `${label} was ${before.shown} and is ${after.shown}`,
    ]
  })
  return changes.join('; ')
}
