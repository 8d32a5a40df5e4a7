import { describeAnyOf } from '../approvers/mention.ts'
import type { Directory } from '../approvers/directory.ts'
import type { TemplateContent } from '../document/template.ts'
import type { RecordData } from '../outline/field.ts'
import { prepareTemplate } from '../merge/prepare.ts'
import type { Bundle } from '../packet/bundle.ts'
import { type AgreementFacts, decidedOf } from './agreement-facts.ts'
import { type Decided, rowsThatCount } from './decide.ts'
import { readOutcome } from './outputs.ts'
import type { TableInForce } from './table.ts'

/** An agreement that is looked back at. */
export interface PastAgreement {
  /** Which of the documents it is made of. */
  readonly made: number
  readonly data: RecordData
  readonly wording: string
  readonly facts: AgreementFacts
}

/** What is asked of past agreements: by a draft, and by what is in force. */
export interface LookBackTask {
  readonly draft: TableInForce
  readonly inForce: TableInForce | null
  readonly directory: Directory
  /** Documents that agreements are made of, a packet's in their order. */
  readonly contents: readonly (readonly TemplateContent[])[]
  readonly agreements: readonly PastAgreement[]
}

/** Who would be asked, by name; a table that cannot decide says why. */
export interface LookedBack {
  readonly draft: readonly string[]
  readonly inForce: readonly string[]
  readonly problem: string | null
}

/** What a draft would have asked of each agreement. */
export function lookBack(task: LookBackTask): readonly LookedBack[] {
  const bundles = task.contents.map((contents): Bundle | null => {
    const parts = contents.map((content) => prepareTemplate(content))
    const [first, ...others] = parts.flatMap((part) => (part.ok ? [part.ready] : []))
    return first && others.length === parts.length - 1 ? { parts: [first, ...others] } : null
  })
  const draft = asksOf(task.draft, task.directory)
  const inForce = task.inForce && asksOf(task.inForce, task.directory)
  return task.agreements.map(({ made, data, wording, facts }) => {
    const bundle = bundles[made]
    if (!bundle) return { draft: [], inForce: [], problem: 'Its template cannot be read any more.' }
    const decided = decidedOf(bundle, data, facts, wording)
    const now = draft(decided)
    return { draft: now.names, inForce: inForce ? inForce(decided).names : [], problem: now.problem }
  })
}

/** Who a table asks: approvers as they are said, and a refusal as one. What each row says is read once. */
function asksOf(
  table: TableInForce,
  directory: Directory,
): (decided: Decided) => { readonly names: readonly string[]; readonly problem: string | null } {
  const said = table.table.rows.map(({ then }) => {
    const { approver, refuse } = readOutcome(then, directory)
    return [...approver.map(describeAnyOf), ...(refuse === null ? [] : [REFUSED])]
  })
  return (decided) => {
    const counting = rowsThatCount(table, decided)
    if (!counting.ok) return { names: [], problem: counting.problem }
    return { names: [...new Set(counting.rows.flatMap((row) => said[row]!))], problem: null }
  }
}

/** How a refusal is told among those who are asked. */
export const REFUSED = 'refused'

/** One agreement as it was looked back at. */
export interface LookedAt {
  readonly id: string
  /** Monday of its week, ISO 8601. */
  readonly week: string
  readonly draft: readonly string[]
  readonly inForce: readonly string[]
}

export interface ApproverFigures {
  readonly approver: string
  readonly draft: readonly string[]
  readonly inForce: readonly string[]
  /** Asked by the draft and not by what is in force, and the other way round. */
  readonly more: readonly string[]
  readonly fewer: readonly string[]
}

/** Approvals by approver, the most asked first; each figure as the agreements it counts. */
export function approverFigures(all: readonly LookedAt[]): readonly ApproverFigures[] {
  const names = [...new Set(all.flatMap(({ draft, inForce }) => [...draft, ...inForce]))]
  return names
    .map((approver) => {
      const by = (is: (each: LookedAt) => boolean) => all.filter(is).map(({ id }) => id)
      return {
        approver,
        draft: by((each) => each.draft.includes(approver)),
        inForce: by((each) => each.inForce.includes(approver)),
        more: by((each) => each.draft.includes(approver) && !each.inForce.includes(approver)),
        fewer: by((each) => !each.draft.includes(approver) && each.inForce.includes(approver)),
      }
    })
    .sort((a, b) => b.draft.length - a.draft.length || a.approver.localeCompare(b.approver))
}

/** Approvals by approver and week, weeks in order; weeks without any are left out. */
export function weekFigures(
  all: readonly LookedAt[],
): readonly { readonly week: string; readonly asked: ReadonlyMap<string, number> }[] {
  const weeks = new Map<string, Map<string, number>>()
  for (const { week, draft } of all) {
    const asks = weeks.get(week) ?? new Map<string, number>()
    for (const approver of draft) asks.set(approver, (asks.get(approver) ?? 0) + 1)
    weeks.set(week, asks)
  }
  return [...weeks].sort(([a], [b]) => (a < b ? -1 : 1)).map(([week, asks]) => ({ week, asked: asks }))
}
