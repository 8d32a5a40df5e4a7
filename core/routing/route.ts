import { RECORD_STEPS, withBudget } from '../expression/values/budget.ts'
import { type AnyOf, describeAnyOf } from '../approvers/mention.ts'
import type { Directory } from '../approvers/directory.ts'
import { decide, type Decided, type Fired } from '../rules/decide.ts'
import { WORDING_FACTS } from '../rules/names.ts'
import { OUTPUTS, readOutcome } from '../rules/outputs.ts'
import type { TableInForce } from '../rules/table.ts'

/** A row that asks for something, and why it holds. */
export interface Reason {
  readonly table: string
  readonly name: string
  readonly edition: number
  readonly row: number
  /** "Total $82,400.00 is over $80,000.00". */
  readonly says: string
}

/** What an approval rests on: each value that led to it in one form however it is written, and as its reader knows it. */
export type Basis = Readonly<
  Record<string, { readonly value: string; readonly label: string; readonly shown: string }>
>

/** One approval that an agreement needs. */
export interface RouteStep {
  readonly approver: string
  /** Any one of them. */
  readonly who: AnyOf
  readonly order: number
  /** Days until it is overdue; null: never. */
  readonly days: number | null
  /** Who may decide it too once it is overdue. */
  readonly escalateTo: AnyOf
  readonly reasons: readonly Reason[]
  readonly basis: Basis
}

/** What rules make of an agreement. */
export interface Route {
  /** In the order in which they are asked for; those of one number side by side. */
  readonly steps: readonly RouteStep[]
  /** Why it may not be made. */
  readonly refusals: readonly Reason[]
  readonly signBy: number | null
  readonly copies: readonly string[]
}

/** A route, or why there is none. */
export type Routed =
  { readonly ok: true; readonly route: Route } | { readonly ok: false; readonly problem: string }

/** Nobody is asked, and nothing is refused. */
export const straight: Route = { steps: [], refusals: [], signBy: null, copies: [] }

/** Who and what a route is worked out with. */
export interface RoutedBy {
  readonly tables: readonly TableInForce[]
  readonly directory: Directory
}

/** What else a route rests on: who is responsible for the record, and prints of its data and its words as they are. */
export interface RoutedOf {
  readonly owner: string | null
  readonly data: () => string
  readonly words: () => string
}

/**
 * The route of an agreement by all tables in force for it: each approver once, at the earliest place and the shortest time that a
 * row asks for. A table that cannot decide is a problem, never a silent pass; so is nobody of a name: such a step waits for
 * whoever is given that name.
 */
export const routeOf = ({ tables, directory }: RoutedBy, decided: Decided, of: RoutedOf): Routed =>
  withBudget(RECORD_STEPS, () => {
    const steps = new Map<string, RouteStep>()
    const route = { refusals: [] as Reason[], signBy: null as number | null, copies: new Set<string>() }
    for (const table of tables) {
      const decision = decide(table, decided)
      if (!decision.ok) return decision
      for (const fired of decision.fired) {
        const outcome = readOutcome(fired.then, directory)
        const reason = reasonOf(fired)
        if (outcome.refuse !== null) route.refusals.push({ ...reason, says: outcome.refuse })
        if (outcome.signBy !== null) route.signBy = Math.min(route.signBy ?? outcome.signBy, outcome.signBy)
        for (const copy of outcome.copies) route.copies.add(copy)
        const escalateTo = approversOf(table.table.escalateTo, directory, of).flat()
        for (const who of approversOf(fired.then.approver ?? '', directory, of)) {
          const approver = describeAnyOf(who)
          const { order, days } = outcome
          const basis = basisOf(fired, of)
          steps.set(
            approver,
            joined(steps.get(approver), { approver, who, order, days, escalateTo, reasons: [reason], basis }),
          )
        }
      }
    }
    return {
      ok: true,
      route: {
        steps: [...steps.values()].sort((a, b) => a.order - b.order),
        refusals: route.refusals,
        signBy: route.signBy,
        copies: [...route.copies],
      },
    }
  })

/** Who has to approve by a cell. A name that nobody has stays: the step is shown as a hole, and is not left out. */
function approversOf(text: string, directory: Directory, { owner }: RoutedOf): readonly AnyOf[] {
  const read = OUTPUTS.approver.read(text, directory)
  if (read.ok)
    return read.value.map((any) => any.map((each) => (each.kind === 'lead' ? { ...each, of: owner } : each)))
  return text
    .split(/[,;\n]/)
    .map((name) => name.trim())
    .filter((name) => name !== '')
    .map((name) => {
      const one = OUTPUTS.approver.read(name, directory)
      return one.ok && one.value[0] ? one.value[0] : [{ kind: 'post' as const, post: name }]
    })
}

const reasonOf = ({ table, name, edition, row, values }: Fired): Reason => ({
  table,
  name,
  edition,
  row,
  says: values.length
    ? values.map(({ says }) => says).join(' and ')
    : 'Every agreement that this table is about',
})

/** A row without tests rests on all there is. */
function basisOf({ values }: Fired, { data, words }: RoutedOf): Basis {
  const basis: Record<string, Basis[string]> = {}
  for (const { expression, value, label, shown } of values) {
    basis[expression] = { value, label, shown }
    if ([...WORDING_FACTS].some((fact) => expression.includes(fact)))
      basis['@words'] = { value: words(), label: 'The wording', shown: '' }
  }
  if (values.length) return basis
  return {
    '@data': { value: data(), label: 'The data', shown: '' },
    '@words': { value: words(), label: 'The wording', shown: '' },
  }
}

function joined(before: RouteStep | undefined, step: RouteStep): RouteStep {
  if (!before) return step
  const days = [before.days, step.days].filter((each) => each !== null)
  return {
    ...before,
    order: Math.min(before.order, step.order),
    days: days.length ? Math.min(...days) : null,
    escalateTo: [...before.escalateTo, ...step.escalateTo],
    reasons: [...before.reasons, ...step.reasons],
    basis: { ...before.basis, ...step.basis },
  }
}

/** A row as it is named where it decides: "row 2 of Season approvals, edition 3". */
export const describeRow = ({ name, edition, row }: Pick<Reason, 'name' | 'edition' | 'row'>): string =>
  `row ${row} of ${name}, edition ${edition}`

/** A step's reasons in one sentence; what several tables say alike is said once. */
export const describeReasons = (reasons: readonly Reason[]): string =>
  [...new Set(reasons.map(({ says }) => says))].join('; ')
