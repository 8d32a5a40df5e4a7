import { compileExpression } from '../../expression/compile.ts'
import type { RuleTable } from '../table.ts'
import type { Effort } from './boxes.ts'
import { readColumn } from './dimension.ts'
import { type Finding, type Space, TOLD } from './finding.ts'

/** The first so many; the last says how many there are. */
export function told<T>(all: readonly T[], made: (each: T) => Finding, what: string): readonly Finding[] {
  const findings = all.slice(0, TOLD).map(made)
  if (all.length <= TOLD) return findings
  const more = made(all[TOLD]!)
  return [...findings, { ...more, says: `And ${all.length - TOLD} more ${what}.`, cells: null, example: {} }]
}

/** What the analysis rests on that need not be so. */
export function limitsOf(
  { table, names }: Space,
  read: readonly {
    readonly input: RuleTable['inputs'][number]
    readonly column: ReturnType<typeof readColumn>
  }[],
  effort: Effort,
): readonly string[] {
  const limits: string[] = []
  const called = (input: RuleTable['inputs'][number]) =>
    `“${input.label || names.words.label(input.expression)}”`
  for (const { input, column } of read)
    if (column.unclear.length)
      limits.push(
        `${called(input)} has ${column.unclear.length === 1 ? 'a test' : `${column.unclear.length} tests`} beyond comparing with fixed values (${column.unclear[0]!}): ${column.unclear.length === 1 ? 'it counts' : 'each counts'} as a condition that may hold or not.`,
      )
  const reads = table.inputs.map((input) => {
    const compiled = compileExpression(input.expression)
    return { input, names: compiled.ok ? compiled.expression.reads : [] }
  })
  reads.forEach(({ input, names: own }, i) => {
    for (const other of reads.slice(i + 1)) {
      const shared = own.find((name) => other.names.includes(name))
      if (shared)
        limits.push(
          `${called(input)} and ${called(other.input)} both depend on “${names.words.label(shared)}”: a case told here may be one that cannot come.`,
        )
    }
  })
  if (effort.left < 0)
    limits.push(
      'The table is too tangled to be looked through as a whole: what is told is true, and there may be more.',
    )
  return limits
}
