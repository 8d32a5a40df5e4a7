import {
  compileExpression,
  compileUnaryTests,
  type Expression,
  type UnaryTests,
} from '../expression/compile.ts'
import { explain, type InWords } from '../expression/explain.ts'
import { children, type Syntax } from '../expression/syntax.ts'
import { type Context, toText, type Value, valueAt } from '../expression/values/value.ts'
import { perObject } from '../per-object.ts'
import { plainTests } from './cell.ts'
import type { OutputKey } from './outputs.ts'
import { isAnything, type Row, type RuleTable, type TableInForce } from './table.ts'

/** What a table decides about: an agreement's values, its facts among them. */
export interface Decided {
  readonly context: Context
  /** Whether a name means anything for this agreement: one of its templates has it, or it is a fact. */
  readonly knows: (name: string) => boolean
  readonly words: InWords
}

/** A value that a row tested, and how it came out. */
export interface TestedValue {
  readonly expression: string
  readonly label: string
  /** As its reader knows it. */
  readonly shown: string
  /** In one form however it is written: what was approved with it is told from what was not. */
  readonly value: string
  /** "Total $82,400.00 is over 80,000". */
  readonly says: string
}

/** A row that counts. */
export interface Fired {
  readonly table: string
  readonly name: string
  readonly edition: number
  /** Its place, from 1, and its id. */
  readonly row: number
  readonly id: string
  readonly values: readonly TestedValue[]
  readonly then: Row['then']
}

/** What a table decides, or why it cannot. */
export type Decision =
  { readonly ok: true; readonly fired: readonly Fired[] } | { readonly ok: false; readonly problem: string }

interface ReadyInput {
  readonly id: string
  readonly label: string
  readonly expression: Expression
  readonly handlesMissing: boolean
}

interface ReadyCell {
  readonly input: number
  readonly text: string
  readonly tests: UnaryTests
  readonly handlesMissing: boolean
}

interface ReadyTable {
  readonly inputs: readonly ReadyInput[]
  readonly rows: readonly (readonly ReadyCell[])[]
  readonly fault: string | null
}

/** Whether an expression says itself what becomes of a missing value. */
const handlesMissing = (node: Syntax): boolean =>
  node.kind === 'null' ||
  (node.kind === 'call' && (node.name === 'is defined' || node.name === 'get or else')) ||
  children(node).some(handlesMissing)

const ready = perObject((table: RuleTable): ReadyTable => {
  let fault: string | null = null
  const inputs = table.inputs.flatMap((input): ReadyInput[] => {
    const compiled = compileExpression(input.expression)
    if (!compiled.ok) {
      fault ??= `The column “${input.label || input.expression}” is at fault: ${compiled.problem.message}`
      return []
    }
    const { expression } = compiled
    return [
      { id: input.id, label: input.label, expression, handlesMissing: handlesMissing(expression.syntax) },
    ]
  })
  const rows = table.rows.map((row, i) =>
    inputs.flatMap((input, at): ReadyCell[] => {
      const text = row.when[input.id]
      if (isAnything(text)) return []
      const compiled = compileUnaryTests(text!)
      if (!compiled.ok) {
        fault ??= `Row ${i + 1} is at fault in “${input.label || input.expression.text}”: ${compiled.problem.message}`
        return []
      }
      const { tests } = compiled
      return [{ input: at, text: text!, tests, handlesMissing: handlesMissing(tests.syntax) }]
    }),
  )
  return { inputs, rows, fault }
})

/** How a cell comes out: it holds or not, or a name's value is missing. */
type Outcome = boolean | { readonly missing: string }

/** Whether each row holds; what the table's own columns work out once is not worked out for each row. */
function tested(table: RuleTable, of: Decided): readonly Outcome[] {
  const { inputs, rows } = ready(table)
  const values = inputs.map((input) => valueOf(input, of))
  return rows.map((cells) => {
    let missing: Outcome | null = null
    for (const cell of cells) {
      const found = passes(cell, values[cell.input]!, of)
      if (found === false) return false
      if (found !== true) missing ??= found
    }
    return missing ?? true
  })
}

type InputValue =
  { readonly value: Value } | { readonly foreign: true } | { readonly missing: string; readonly value: null }

function valueOf({ expression, handlesMissing: handles }: ReadyInput, of: Decided): InputValue {
  if (expression.reads.some((name) => !of.knows(name))) return { foreign: true }
  const value = expression.evaluate(of.context)
  const gone = expression.reads.find((name) => valueAt(of.context, name) === null)
  if (gone !== undefined && (value === null || !handles)) return { missing: gone, value: null }
  return value === null ? { missing: expression.text, value } : { value }
}

function passes(cell: ReadyCell, found: InputValue, of: Decided): Outcome {
  if ('foreign' in found || cell.tests.reads.some((name) => !of.knows(name))) return false
  if ('missing' in found && !cell.handlesMissing) return { missing: found.missing }
  const passed = cell.tests.evaluate(found.value, of.context)
  if (typeof passed === 'boolean') {
    const gone = cell.handlesMissing
      ? undefined
      : cell.tests.reads.find((name) => valueAt(of.context, name) === null)
    return gone === undefined ? passed : { missing: gone }
  }
  return { missing: cell.tests.reads.find((name) => valueAt(of.context, name) === null) ?? cell.text }
}

/** The rows of a table that hold, by their places from 0, whatever the hit policy makes of them. */
export const rowsThatHold = (table: RuleTable, of: Decided): readonly number[] =>
  tested(table, of).flatMap((outcome, i) => (outcome === true ? [i] : []))

/**
 * The rows of a table that count, by their places from 0. A value that is missing where a row asks for it is a problem, or the
 * row does not hold, as the table says; rows that its hit policy does not allow together are a problem (DMN 1.3, 8.2.8).
 */
export function rowsThatCount({ edition, table }: Omit<TableInForce, 'id'>, of: Decided): Chosen {
  const { fault } = ready(table)
  const problem = (text: string): Chosen => ({
    ok: false,
    problem: `${text} (${table.name}, edition ${edition})`,
  })
  if (fault !== null) return problem(fault)
  const holding: number[] = []
  for (const [i, outcome] of tested(table, of).entries()) {
    if (outcome === true) {
      holding.push(i)
      if (table.hitPolicy === 'first') break
    } else if (outcome !== false && table.missing === 'ask')
      return problem(`“${of.words.label(outcome.missing)}” is missing, and row ${i + 1} asks for it.`)
  }
  if (holding.length === 0 && table.otherwise === 'fault') return problem('No row holds for it.')
  const allowed = chosen(table, holding)
  return allowed.ok ? allowed : problem(allowed.problem)
}

/** What a table decides: the rows that count, with the values that led to each. */
export function decide({ id, edition, table }: TableInForce, of: Decided): Decision {
  const counting = rowsThatCount({ edition, table }, of)
  if (!counting.ok) return counting
  const { inputs, rows } = ready(table)
  const fired = counting.rows.map((i): Fired => {
    const row = table.rows[i]!
    return {
      table: id,
      name: table.name,
      edition,
      row: i + 1,
      id: row.id,
      then: row.then,
      values: rows[i]!.map((cell) => told(cell, inputs[cell.input]!, of)),
    }
  })
  return { ok: true, fired }
}

function told(cell: ReadyCell, { label, expression }: ReadyInput, of: Decided): TestedValue {
  const value = expression.evaluate(of.context)
  const name = of.words.label(expression.text)
  const called = label || name
  const plain = expression.reads.length === 1 && expression.reads[0] === expression.text.trim()
  const read = plain ? [] : expression.reads.map((each) => [each, valueAt(of.context, each)] as const)
  const show = (shown: Value) => of.words.show(shown, expression.text)
  const test = plainTests(cell.text, show)
  const now = show(value)
  const said = typeof value === 'boolean' || test === now || value === null ? now : null
  // What a condition compares says more than that it holds.
  const compared =
    typeof value === 'boolean' && !plain && !label
      ? explain(expression.syntax, expression.text, of.context, of.words)
      : null
  return {
    expression: expression.text,
    label: called,
    shown: read.length
      ? read.map(([each, at]) => `${of.words.label(each)} ${of.words.show(at, each)}`).join(', ')
      : now,
    value: [value, ...read.map(([, at]) => at), ...cell.tests.reads.map((each) => valueAt(of.context, each))]
      .map(toText)
      .join(' | '),
    says:
      compared ??
      (said !== null
        ? `${called} is ${said}`
        : test.startsWith('where ')
          ? `${called} ${now}`
          : `${called} ${now} is ${test}`),
  }
}

type Chosen =
  { readonly ok: true; readonly rows: readonly number[] } | { readonly ok: false; readonly problem: string }

/** Which of the rows that hold count, by the table's hit policy. */
export function chosen(table: RuleTable, holding: readonly number[]): Chosen {
  const [first] = holding
  if (first === undefined) return { ok: true, rows: [] }
  const said = () => holding.map((i) => i + 1).join(' and ')
  switch (table.hitPolicy) {
    case 'unique':
      return holding.length === 1
        ? { ok: true, rows: holding }
        : { ok: false, problem: `Rows ${said()} both hold, and only one may.` }
    case 'any':
      return holding.every((i) => sameOutputs(table, table.rows[i]!, table.rows[first]!))
        ? { ok: true, rows: [first] }
        : { ok: false, problem: `Rows ${said()} hold and say different things.` }
    case 'first':
      return { ok: true, rows: [first] }
    case 'priority':
      return { ok: true, rows: byPriority(table, holding).slice(0, 1) }
    case 'output order':
      return { ok: true, rows: byPriority(table, holding) }
    case 'collect':
    case 'rule order':
      return { ok: true, rows: holding }
  }
}

const written = (text: string | undefined): string => (text ?? '').trim().toLowerCase()

/** Whether two rows say the same, output by output. */
export const sameOutputs = ({ outputs }: Pick<RuleTable, 'outputs'>, a: Row, b: Row): boolean =>
  outputs.every(({ key }: { readonly key: OutputKey }) => written(a.then[key]) === written(b.then[key]))

/** A row's place in the table's order of outputs, the highest 0; what is not in it comes last. */
export function priorityOf({ outputs, priorities }: RuleTable, row: Row): number {
  const key = outputs[0]?.key
  const at = priorities.findIndex((each) => key !== undefined && written(each) === written(row.then[key]))
  return at < 0 ? priorities.length : at
}

const byPriority = (table: RuleTable, rows: readonly number[]): readonly number[] =>
  [...rows].sort((a, b) => priorityOf(table, table.rows[a]!) - priorityOf(table, table.rows[b]!) || a - b)
