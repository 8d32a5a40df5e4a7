// Expressions come from people, and nobody else may have to wait for one. What an evaluation costs is counted in steps:
// one for each turn of a loop, each item of a list that is made or looked through, each sixty-four characters of a text.

/** Steps one evaluation may take; past that its value is null. */
export const EVALUATION_STEPS = 400_000

/** Steps that all formulas and conditions of a template may take over one record. */
export const RECORD_STEPS = 250_000

/** Characters a text made by an expression may have; past that it is null. No value of a contract comes near. */
export const LONGEST_TEXT = 1_000_000

const CHARACTERS_A_STEP = 64

/** One evaluation took too many steps: its value is null. */
export class TooLong extends Error {}

/** All evaluations of one piece of work together took too many steps. */
export class BudgetSpent extends Error {
  constructor() {
    super(
      'The expressions here take too long to work out. Make loops (for, some, every) shorter, or write fewer of them.',
    )
  }
}

let left = Number.POSITIVE_INFINITY
let shared: { left: number } | null = null

/** Counts steps against the evaluation that goes on. Throws TooLong where it has had its share. */
export function spend(steps: number): void {
  left -= steps
  if (left < 0) throw new TooLong()
}

/** Counts the characters of a text that was made or looked through. */
export const spendText = (characters: number): void => spend(Math.ceil(characters / CHARACTERS_A_STEP))

/**
 * One evaluation: `otherwise` where it takes too long by itself. Throws BudgetSpent where it uses up what the work around
 * it had left. Evaluations inside an evaluation count with the outer one.
 */
export function evaluation<T>(work: () => T, otherwise: T): T {
  if (left !== Number.POSITIVE_INFINITY) return work()
  const most = Math.min(EVALUATION_STEPS, shared?.left ?? EVALUATION_STEPS)
  left = most
  try {
    return work()
  } catch (error) {
    if (!(error instanceof TooLong)) throw error
    if (shared && shared.left <= most) {
      shared.left = 0
      throw new BudgetSpent()
    }
    return otherwise
  } finally {
    if (shared) shared.left = Math.max(0, shared.left - (most - Math.max(0, left)))
    left = Number.POSITIVE_INFINITY
  }
}

/**
 * Work whose evaluations share one budget of steps. Inside other such work the outer budget goes on. The work may not wait
 * for anything: what others evaluate meanwhile would count too.
 */
export function withBudget<T>(steps: number, work: () => T): T {
  if (shared) return work()
  shared = { left: steps }
  try {
    return work()
  } finally {
    shared = null
  }
}

/** Work in pieces between which others get their turn: each piece has `steps` at the most, and all together `whole`. */
export function inPieces(whole: number, steps: number): <T>(work: () => T) => T {
  let rest = whole
  return (work) => {
    const most = Math.min(steps, rest)
    return withBudget(most, () => {
      try {
        return work()
      } finally {
        rest -= most - (shared?.left ?? 0)
      }
    })
  }
}
