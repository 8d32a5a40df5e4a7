import { isNumeric } from '../outline/field-kinds.ts'
import { withBudget } from '../expression/values/budget.ts'
import { compileExpression, type Expression } from '../expression/compile.ts'
import { type Field, type FieldValue, nameTypes, type Outline, type RecordData } from '../outline/field.ts'
import { completeRecord, type ReadyOutline } from '../outline/record.ts'
import { checkExpression } from '../expression/check.ts'

/** A search over records of one kind. */
export interface RecordFilter {
  /** Words that must all stand somewhere in the record, whatever their case. */
  readonly search: string
  /** FEEL over the record's fields; empty: all. */
  readonly where: string
  /** A field's name, with a minus before it for downwards; empty: by name. */
  readonly sort: string
}

/** Why a condition over records of these fields cannot be used; null where it can, or is empty. */
export function filterProblem(fields: Outline, where: string): string | null {
  if (where.trim() === '') return null
  const compiled = compileExpression(where)
  if (!compiled.ok) return compiled.problem.message
  return checkExpression(compiled.expression.syntax, nameTypes(fields), 'boolean')[0]?.message ?? null
}

const textsOf = (value: FieldValue): readonly string[] =>
  typeof value === 'string'
    ? [value]
    : typeof value === 'boolean'
      ? []
      : value.flatMap((item) => Object.values(item).filter((each) => typeof each === 'string'))

/** Whether every word of a search stands in one of the texts. */
export function hasWords(texts: readonly string[], search: string): boolean {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const whole = texts.join('\n').toLowerCase()
  return words.every((word) => whole.includes(word))
}

/** A record as filters see it; `more` are texts that stand with it, such as its customer's name. */
export interface Filterable {
  readonly data: RecordData
  readonly more?: readonly string[]
}

/** Steps that the conditions of one search may take over all records together. */
export const FILTER_STEPS = 4_000_000

/** The records that fit, in order. A condition that is not sound fits none. Throws BudgetSpent where it takes too long. */
export const filterRecords = <R extends Filterable>(
  ready: ReadyOutline,
  records: readonly R[],
  filter: RecordFilter,
): readonly R[] => withBudget(FILTER_STEPS, () => filtered(ready, records, filter))

function filtered<R extends Filterable>(
  ready: ReadyOutline,
  records: readonly R[],
  { search, where, sort }: RecordFilter,
): readonly R[] {
  const compiled = where.trim() === '' ? null : compileExpression(where)
  if (compiled && !compiled.ok) return []
  const condition: Expression | null = compiled ? compiled.expression : null
  const found = records.filter(
    ({ data, more = [] }) =>
      (search.trim() === '' || hasWords([...Object.values(data).flatMap(textsOf), ...more], search)) &&
      (condition === null || condition.evaluate(completeRecord(ready, data).context) === true),
  )
  const down = sort.startsWith('-')
  const name = sort.replace(/^-/, '') || 'name'
  const field = ready.outline.find((each) => each.name === name)
  if (!field) return found
  const order = found
    .map((record) => ({ record, value: completeRecord(ready, record.data).data[name] }))
    .sort((a, b) => compareValues(field, a.value, b.value, down))
  return order.map(({ record }) => record)
}

const letters = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

/** Empty values stand last, whichever way the others go. */
function compareValues(
  field: Field,
  a: FieldValue | undefined,
  b: FieldValue | undefined,
  down: boolean,
): number {
  if (a === undefined || b === undefined) return a === b ? 0 : a === undefined ? 1 : -1
  const order =
    typeof a === 'object' || typeof b === 'object'
      ? (typeof a === 'object' ? a.length : 0) - (typeof b === 'object' ? b.length : 0)
      : isNumeric(field.type)
        ? Number(a) - Number(b)
        : letters.compare(String(a), String(b))
  return down ? -order : order
}
