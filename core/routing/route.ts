import { compileExpression } from '../expression/compile.ts'
import { explain } from '../expression/explain.ts'
import type { InWords } from '../expression/explain.ts'
import type { Context } from '../expression/values/value.ts'

/** One line of a rule table: where the condition is true, the holder of a post must approve. */
export interface Rule {
  readonly id: string
  readonly condition: string
  /** The post that approves, such as `operations director`. */
  readonly approver: string
}

export interface RouteStep {
  readonly rule: string
  readonly approver: string
  /** Why this approval is asked for, with the values that decided it. */
  readonly reason: string
}

export type Routed =
  | { readonly ok: true; readonly steps: readonly RouteStep[] }
  | { readonly ok: false; readonly problem: string }

/**
 * The approvals a record needs, in the order of the rules; every rule that holds adds one (DMN hit policy: collect), a
 * post is asked once. A rule that cannot be decided is a problem, never a silent pass.
 */
export function route(rules: readonly Rule[], record: Context, words: InWords): Routed {
  const steps: RouteStep[] = []
  for (const rule of rules) {
    const compiled = compileExpression(rule.condition)
    if (!compiled.ok)
      return { ok: false, problem: `The rule “${rule.condition}” is faulty: ${compiled.problem.message}` }
    const holds = compiled.expression.evaluate(record)
    if (typeof holds !== 'boolean')
      return {
        ok: false,
        problem: `The rule “${rule.condition}” cannot be decided: a value it needs is missing.`,
      }
    if (!holds) continue
    const reason = explain(compiled.expression.syntax, rule.condition, record, words)
    const same = steps.findIndex((step) => step.approver === rule.approver)
    if (same < 0) steps.push({ rule: rule.id, approver: rule.approver, reason })
    else steps[same] = { ...steps[same]!, reason: `${steps[same]!.reason}; ${reason}` }
  }
  return { ok: true, steps }
}
