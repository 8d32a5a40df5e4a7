import type { TemplateContent } from '../document/template.ts'
import { BudgetSpent } from '../expression/values/budget.ts'
import { TODAY } from '../expression/values/value.ts'
import { readGroup, type RowProblem, type SourceRow } from '../mapping/apply.ts'
import { readItemKey } from '../mapping/key.ts'
import type { Mapping } from '../mapping/suggest.ts'
import { senderData, totalsGroup } from '../merge/fields.ts'
import type { Person } from '../merge/finished.ts'
import { prepareTemplate } from '../merge/prepare.ts'
import type { FieldValue, RecordData } from '../outline/field.ts'
import { type Bundle, bundleFields, examineBundle } from '../packet/bundle.ts'
import { describeReasons, describeRow, type Routed, routeOf, straight } from '../routing/route.ts'
import { type AgreementRules, decidedOf } from '../rules/agreement-facts.ts'
import { cellText } from '../outline/cell.ts'
import type { Column } from '../sheet/columns.ts'
import { rowLabel } from './label.ts'
import { readAddresses, readLanguage } from './row-extras.ts'
import type { RunSetup } from './setup.ts'

/** All that rows of a run are checked by; plain data, so that it can go to a thread as it is. */
export interface RunTerms {
  /** What each row is merged into: one published wording, or those of a packet in their order. */
  readonly contents: readonly TemplateContent[]
  readonly columns: readonly Column[]
  readonly mapping: Mapping
  readonly setup: RunSetup
  /** The tables in force for what is made, and what they may ask besides the data. */
  readonly rules: AgreementRules
  /** The day the run was set up, ISO 8601, in UTC: what `today()` gives. */
  readonly today: string
  /** Whoever set the run up, and sends it. */
  readonly sender: Parameters<typeof senderData>[1] | null
  /** Names of the files that may go along. */
  readonly files: readonly string[]
}

/** Rows that become one agreement, with the values somebody gave for just this one, as typed, by field. */
export interface RowGroup {
  readonly rows: readonly SourceRow[]
  readonly answers: Readonly<Record<string, string>>
}

/** What a row comes to. Without problems it can be made. */
export interface CheckedGroup {
  /** Number of the first of its rows. */
  readonly row: number
  readonly sourceRows: readonly number[]
  readonly label: string
  readonly data: RecordData
  readonly problems: readonly RowProblem[]
  readonly wording: string
  readonly approvals: readonly { readonly approver: string; readonly reason: string }[]
  readonly people: readonly Pick<Person, 'label' | 'name' | 'email' | 'order'>[]
  readonly language: string | null
  readonly copies: readonly string[]
  /** Name of the file that goes along, as it was uploaded. */
  readonly file: string | null
}

/**
 * Reads, examines and routes rows by the same terms, one after the other: everything that making an agreement does short of
 * drawing it, so that what is wrong is known before. Throws where a wording has faults, as no published one has.
 */
export function rowChecker(terms: RunTerms): (group: RowGroup) => CheckedGroup {
  const ready = new Map<string | null, Ready>()
  const readyIn = (language: string | null): Ready => {
    const known = ready.get(language) ?? prepare(terms.contents, language)
    ready.set(language, known)
    return known
  }
  const files = new Map(terms.files.map((name) => [name.toLowerCase(), name]))
  return (group) => checkGroup(terms, readyIn, files, group)
}

/** What rows of one language are read and merged by. */
interface Ready {
  readonly bundle: Bundle
  readonly fields: ReturnType<typeof bundleFields>
}

function prepare(contents: readonly TemplateContent[], language: string | null): Ready {
  const [first, ...others] = contents.map((content) => {
    const prepared = prepareTemplate(language ? { ...content, language } : content)
    if (!prepared.ok) throw new Error(`“${content.title}” cannot be merged.`)
    return prepared.ready
  })
  const bundle: Bundle = { parts: [first!, ...others] }
  return { bundle, fields: bundleFields(bundle) }
}

function checkGroup(
  terms: RunTerms,
  readyIn: (language: string | null) => Ready,
  files: ReadonlyMap<string, string>,
  { rows, answers }: RowGroup,
): CheckedGroup {
  const { setup, columns, rules, sender } = terms
  const extras = readExtras(terms, files, rows)
  const { bundle, fields } = readyIn(extras.language)
  const read = readGroup(fields, columns, terms.mapping, rows, {
    values: { ...setup.values, ...answers },
    asked: setup.askRows,
  })
  const data: Record<string, FieldValue> = { ...read.data, [TODAY]: terms.today }
  if (sender) for (const { content } of bundle.parts) Object.assign(data, senderData(content, sender))
  const { merged, routed, slow } = workedOut(bundle, rules, data, extras.language)
  const problems = [
    ...withoutFollowing(bundle, [...read.problems, ...extras.problems], merged.problems),
    ...(slow ? [{ field: '', column: null, message: slow }] : []),
  ]
  if (!routed.ok && problems.length === 0) problems.push({ field: '', column: null, message: routed.problem })
  for (const refusal of routed.ok ? routed.route.refusals : [])
    problems.push({
      field: '',
      column: null,
      message: `Not to be made: ${refusal.says} (${describeRow(refusal)})`,
    })
  const { row } = rows[0]!
  return {
    row,
    sourceRows: rows.map((each) => each.row),
    label: rowLabel(bundle.parts[0].content, data, row),
    data,
    problems,
    wording: merged.wording,
    approvals: routed.ok
      ? routed.route.steps.map(({ approver, reasons }) => ({ approver, reason: describeReasons(reasons) }))
      : [],
    people: merged.people.map(({ label, name, email, order }) => ({ label, name, email, order })),
    language: extras.language,
    copies: extras.copies,
    file: extras.file,
  }
}

/** What a row comes to; `slow` says so where its formulas take too long. */
function workedOut(bundle: Bundle, rules: RunTerms['rules'], data: RecordData, language: string | null) {
  try {
    const merged = examineBundle(bundle, data)
    const facts = { ...rules.facts, language, changedClauses: null }
    // What an approval rests on is kept with what is made; here it is only told who will be asked.
    const nothing = { owner: null, data: () => '', words: () => '' }
    const decided = decidedOf(bundle, data, facts, merged.wording)
    return { merged, routed: routeOf(rules, decided, nothing), slow: null }
  } catch (error) {
    if (!(error instanceof BudgetSpent)) throw error
    const merged: ReturnType<typeof examineBundle> = { people: [], problems: [], wording: '' }
    const routed: Routed = { ok: true, route: straight }
    return { merged, routed, slow: error.message }
  }
}

/** What the row says of language, copies and the file that goes along. */
function readExtras(
  { setup, columns }: RunTerms,
  files: ReadonlyMap<string, string>,
  rows: readonly SourceRow[],
) {
  const problems: RowProblem[] = []
  const textOf = (column: string | null): string => {
    const at = column === null ? -1 : columns.findIndex(({ name }) => name === column)
    return at < 0
      ? ''
      : (rows.map(({ cells }) => cellText(cells[at] ?? null).trim()).find((text) => text !== '') ?? '')
  }
  const say = (column: string | null, message: string, kind: 'value' | 'file' = 'value') =>
    problems.push({ field: '', column, message, kind })
  const language = textOf(setup.languageColumn)
  const tag = language ? readLanguage(language) : null
  if (language && !tag) say(setup.languageColumn, `“${language}” is none of the languages known here.`)
  const copies = readAddresses(textOf(setup.copiesColumn))
  if (!copies.ok) say(setup.copiesColumn, copies.problem)
  const wanted = textOf(setup.fileColumn)
  const file = wanted ? (files.get(wanted.toLowerCase()) ?? null) : null
  if (wanted && file === null)
    say(setup.fileColumn, `The file “${wanted}” has not been uploaded to this run.`, 'file')
  return { language: tag, copies: copies.ok ? copies.addresses : [], file, problems }
}

/** What follows from a value already told as missing or wrong would only repeat it. */
function withoutFollowing(
  bundle: Bundle,
  found: readonly RowProblem[],
  more: ReturnType<typeof examineBundle>['problems'],
): readonly RowProblem[] {
  const told = new Set(
    found.flatMap(({ field }) => {
      const item = readItemKey(field)
      return item ? [field, item.list, `${item.list}.${item.name}`] : [field]
    }),
  )
  const problems = [...found]
  for (const { field, block, condition = block, message } of more) {
    if (problems.some((problem) => problem.message === message)) continue
    const needs =
      field !== null
        ? [field]
        : condition !== null
          ? bundle.parts.flatMap((part) => part.conditions.get(condition)?.reads ?? [])
          : []
    if (!needs.some((name) => bundle.parts.some((part) => dependsOn(part, name, told))))
      problems.push({ field: field ?? '', column: null, message })
  }
  return problems
}

/** Whether a field is one of those named, or is computed from one of them, over however many steps. */
const dependsOn = (ready: Bundle['parts'][0], name: string, named: ReadonlySet<string>): boolean =>
  named.has(name) ||
  [...named].some((list) => name.startsWith(`${totalsGroup(list)}.`)) ||
  (ready.outline.computed
    .find(({ field }) => field.name === name)
    ?.reads.some((read) => dependsOn(ready, read, named)) ??
    false)
