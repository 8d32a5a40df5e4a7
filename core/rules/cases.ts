import { compileExpression } from '../expression/compile.ts'
import type { Context, Value } from '../expression/values/value.ts'
import { chosen, rowsThatHold } from './decide.ts'
import type { RuleNames } from './names.ts'
import type { RuleTable } from './table.ts'

/** A case of a table: values by the expressions of its columns, as FEEL literals, and what the table has to say of it. */
export interface RuleCase {
  readonly name: string
  readonly values: Readonly<Record<string, string>>
  /** Outputs of the rows that count, as written, sorted; none: no row holds. */
  readonly expected: readonly string[]
}

/** What became of a case of a rule table. */
export interface RuleCaseResult {
  readonly name: string
  readonly passed: boolean
  readonly actual: readonly string[]
  readonly rows: readonly number[]
  readonly problem: string | null
}

/**
 * A table over the values of its columns rather than over a record: each column reads its value by its expression, so that a
 * case holds whatever else the expression would ask.
 */
function overValues(table: RuleTable, values: Readonly<Record<string, string>>, names: RuleNames) {
  const context = new Map<string, Value>()
  const inputs = table.inputs.map((input, i) => {
    const compiled = compileExpression(values[input.expression] ?? 'null')
    const name = `value_${i}`
    context.set(name, compiled.ok ? compiled.expression.evaluate(new Map()) : null)
    return { ...input, expression: name }
  })
  const of = { context: context as Context, knows: () => true, words: names.words }
  return { table: { ...table, inputs }, of }
}

/** What a table says of values, output by output: "operations director". */
export function saidOfValues(
  table: RuleTable,
  values: Readonly<Record<string, string>>,
  names: RuleNames,
): { readonly rows: readonly number[]; readonly said: readonly string[]; readonly problem: string | null } {
  const made = overValues(table, values, names)
  const allowed = chosen(made.table, rowsThatHold(made.table, made.of))
  if (!allowed.ok) return { rows: [], said: [], problem: allowed.problem }
  const said = allowed.rows.map((row) =>
    table.outputs
      .map(({ key }) => (table.rows[row]!.then[key] ?? '').trim())
      .filter((text) => text !== '')
      .join('; '),
  )
  return { rows: allowed.rows, said: [...said].sort(), problem: null }
}

/** Runs a case against a table. */
export function runRuleCase(table: RuleTable, saved: RuleCase, names: RuleNames): RuleCaseResult {
  const { rows, said, problem } = saidOfValues(table, saved.values, names)
  const passed = problem === null && said.join('\n') === [...saved.expected].sort().join('\n')
  return { name: saved.name, passed, actual: said, rows, problem }
}
