import { mayAnybody } from '../approvers/authority.ts'
import { describeAnyOf, readApprovers } from '../approvers/mention.ts'
import type { Directory } from '../approvers/directory.ts'
import { checkExpression, inferredType } from '../expression/check.ts'
import { compileExpression, compileUnaryTests } from '../expression/compile.ts'
import { TESTED } from '../expression/parse.ts'
import type { TypeName } from '../expression/values/value.ts'
import { nearest } from '../text/nearest.ts'
import { cellFaults, type Tested } from './cell.ts'
import type { RuleNames } from './names.ts'
import { OUTPUTS } from './outputs.ts'
import { type Input, isAnything, type RuleTable, TABLE_LIMITS } from './table.ts'

/** A fault of a table, at its cell. */
export interface TableFault {
  /** Of a row; null: of a column's head, or of the table. */
  readonly row: string | null
  /** Id of an input, or key of an output; null: of the whole. */
  readonly column: string | null
  readonly message: string
  /** What may have been meant: the text of the whole cell then. */
  readonly meant: string | null
}

/** What the cells of a column test; `any` where its expression is at fault. */
export function testedBy(input: Pick<Input, 'expression'>, names: RuleNames): Tested {
  const compiled = compileExpression(input.expression)
  if (!compiled.ok) return { type: 'any' }
  const { syntax, reads } = compiled.expression
  const type: TypeName | 'any' = inferredType(syntax, names.types)
  const field =
    reads.length === 1 && reads[0] === input.expression.trim() ? names.fields.get(reads[0]) : undefined
  return { type, choices: field?.type === 'choice' ? field.choices : undefined }
}

/** Everything that keeps a table from being put in force, each fault at its cell. */
export function tableFaults(table: RuleTable, names: RuleNames, directory: Directory): readonly TableFault[] {
  const faults: TableFault[] = []
  const add = (row: string | null, column: string | null, message: string, meant: string | null = null) =>
    faults.push({ row, column, message, meant })
  if (!table.name.trim()) add(null, null, 'The table has no name.')
  if (!table.outputs.length) add(null, null, 'The table says nothing: it has no output.')
  if (!table.rows.length) add(null, null, 'The table has no row.')
  if (table.rows.length > TABLE_LIMITS.rows)
    add(null, null, `The table has ${table.rows.length} rows; ${TABLE_LIMITS.rows} are the most.`)
  for (const input of table.inputs) {
    for (const { message, meant } of expressionFaults(input.expression, names))
      add(null, input.id, message, meant)
    const tested = testedBy(input, names)
    for (const row of table.rows) {
      const cell = row.when[input.id]
      if (isAnything(cell)) continue
      for (const { message, meant } of testFaults(cell!, tested, names)) add(row.id, input.id, message, meant)
    }
  }
  for (const { key } of table.outputs)
    for (const row of table.rows) {
      const text = (row.then[key] ?? '').trim()
      const read = text === '' ? null : OUTPUTS[key].read(text, directory)
      if (read && !read.ok)
        add(row.id, key, read.problem, read.nearest ? replacedIn(text, read.problem, read.nearest) : null)
      const nobody = key === 'approver' ? withoutApprover(text, directory) : null
      if (nobody !== null) add(row.id, key, `Nobody of “${nobody}” has the right to approve.`)
    }
  for (const row of table.rows)
    if (table.outputs.every(({ key }) => !(row.then[key] ?? '').trim()))
      add(
        row.id,
        table.outputs[0]?.key ?? null,
        'This row says nothing. “nobody” says that nobody has to approve.',
      )
  const escalation = table.escalateTo.trim()
  const read = escalation ? OUTPUTS.approver.read(escalation, directory) : null
  if (read && !read.ok) add(null, 'escalateTo', read.problem, read.nearest ?? null)
  if (table.hitPolicy === 'priority' || table.hitPolicy === 'output order')
    faults.push(...priorityFaults(table))
  return faults
}

/** Those asked of whom nobody may approve, as they are written; null: there is somebody for each. */
function withoutApprover(text: string, directory: Directory): string | null {
  const read = readApprovers(text, directory)
  const none = read.ok ? read.all.find((any) => !any.some((each) => mayAnybody(each, directory))) : undefined
  return none ? describeAnyOf(none) : null
}

interface Mended {
  readonly message: string
  readonly meant: string | null
}

/** Faults of a column's expression: those of the language, names that no template has, names of two meanings. */
function expressionFaults(text: string, names: RuleNames): readonly Mended[] {
  const compiled = compileExpression(text)
  if (!compiled.ok) return [{ message: compiled.problem.message, meant: null }]
  const { syntax, reads } = compiled.expression
  const found = checkExpression(syntax, names.types).map(({ message }) => message)
  return mended(text, reads, found, names)
}

function testFaults(text: string, tested: Tested, names: RuleNames): readonly Mended[] {
  const compiled = compileUnaryTests(text)
  const faults = cellFaults(text, tested, names.types).map(({ message }) => message)
  return mended(text, compiled.ok ? compiled.tests.reads : [], faults, names)
}

function mended(
  text: string,
  reads: readonly string[],
  messages: readonly string[],
  names: RuleNames,
): readonly Mended[] {
  const clashing = reads.flatMap((name) => names.clashes.get(name) ?? [])
  return [
    ...messages.map((message) => {
      const unknown = reads.find((name) => message.includes(`“${name}”`))
      const like = unknown ? nearest(unknown, names.types.keys()) : null
      if (!unknown || !like) return { message, meant: null }
      return { message: `${message} Is “${like}” meant?`, meant: text.replaceAll(unknown, like) }
    }),
    ...clashing.map((message) => ({ message, meant: null })),
  ]
}

/** The cell with the name that the problem is about put right. */
function replacedIn(text: string, problem: string, like: string): string | null {
  const wrong = problem.slice(problem.indexOf('“') + 1, problem.indexOf('”'))
  return wrong ? text.replace(wrong, like) : null
}

function priorityFaults(table: RuleTable): readonly TableFault[] {
  const [first] = table.outputs
  if (!first) return []
  const known = new Set(table.priorities.map((each) => each.trim().toLowerCase()))
  return table.rows.flatMap((row) => {
    const text = (row.then[first.key] ?? '').trim()
    return known.has(text.toLowerCase())
      ? []
      : [
          {
            row: row.id,
            column: first.key,
            message: `“${text}” is not in the table’s order of outputs.`,
            meant: null,
          },
        ]
  })
}

/** Names read that only some templates in scope have, with those that do not: rows that test them do not hold there. */
export function lackingNames(table: RuleTable, names: RuleNames): ReadonlyMap<string, readonly string[]> {
  const reads = table.inputs.flatMap((input) => {
    const compiled = compileExpression(input.expression)
    return compiled.ok ? compiled.expression.reads : []
  })
  const cells = table.rows.flatMap(({ when }) =>
    Object.values(when).flatMap((cell) => {
      const compiled = compileUnaryTests(cell)
      return compiled.ok ? compiled.tests.reads : []
    }),
  )
  return new Map(
    [...new Set([...reads, ...cells])].flatMap((name) => {
      const titles = name === TESTED ? undefined : names.lacking.get(name)
      return titles ? [[name, titles] as const] : []
    }),
  )
}
