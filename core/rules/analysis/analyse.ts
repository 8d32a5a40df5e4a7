import type { Value } from '../../expression/values/value.ts'
import { plainTests } from '../cell.ts'
import { chosen, priorityOf } from '../decide.ts'
import { testedBy } from '../faults.ts'
import type { RuleNames } from '../names.ts'
import type { RuleTable } from '../table.ts'
import {
  type Box,
  common,
  type Effort,
  inside,
  isEmpty,
  meets,
  packed,
  packedInside,
  uncovered,
} from './boxes.ts'
import { cellOf, literal, readColumn } from './dimension.ts'
import { limitsOf, told } from './limits.ts'
import type { Finding, Space, Weight } from './finding.ts'

export interface Analysis {
  readonly findings: readonly Finding[]
  /** Whether the whole table was looked through: then what is not told is not there. */
  readonly complete: boolean
  /** What it could not decide, in words. */
  readonly limits: readonly string[]
}

/** Steps that one analysis may take, and how many findings of a kind are told. */
const EFFORT = 3_000_000

/**
 * What is wrong with a table, or could be better: cases in which no row holds, rows that contradict each other, can never
 * hold, say what another one says, or could be one. Exact for numbers, dates, choices, yes/no and texts compared as a whole,
 * each column by itself; `limits` says where it is not.
 */
export function analyse(table: RuleTable, names: RuleNames, effort: Effort = { left: EFFORT }): Analysis {
  const read = table.inputs.map((input) => ({
    input,
    column: readColumn(
      input.id,
      testedBy(input, names),
      table.rows.map(({ when }) => when[input.id]),
    ),
  }))
  const dimensions = read.flatMap(({ column }) => column.dimensions)
  const rows: readonly Box[] = table.rows.map((_, row) => read.flatMap(({ column }) => column.sets[row]!))
  const space: Space = {
    table,
    names,
    dimensions,
    rows,
    sizes: dimensions.map(({ stretches }) => stretches.length),
    packed: rows.map(packed),
    full: dimensions.map(({ stretches }) => packed([new Uint8Array(stretches.length).fill(1)])[0]!),
    says: table.rows.map(({ then }) =>
      table.outputs.map(({ key }) => (then[key] ?? '').trim().toLowerCase()).join('\n'),
    ),
  }
  const findings = [
    ...impossible(space, effort),
    ...overlaps(space, effort),
    ...redundant(space, effort),
    ...holes(space, effort),
    ...joinable(space, effort),
  ]
  return { findings, complete: effort.left >= 0, limits: limitsOf(space, read, effort) }
}

/** Whether the effort allows one more pair of rows to be looked at. */
const mayLook = ({ sizes }: Space, effort: Effort): boolean =>
  (effort.left -= 0.5 + sizes.reduce((sum, size) => sum + size, 0) / 1000) >= 0

const everything = ({ dimensions }: Space): Box => dimensions.map(() => null)

const certain = ({ dimensions }: Space, box: Box): boolean =>
  box.every((set, i) => set === null || dimensions[i]!.kind !== 'condition')

/** A box as cells by input; null where two tests of one column would have to stand in one cell. */
function cellsOf({ dimensions }: Space, box: Box): Readonly<Record<string, string>> | null {
  const cells: Record<string, string> = {}
  for (const [i, set] of box.entries()) {
    const cell = set === null ? '-' : cellOf(dimensions[i]!, set)
    if (cell === '-') continue
    const { input } = dimensions[i]!
    if (cell === null || cells[input] !== undefined) return null
    cells[input] = cell
  }
  return cells
}

/** A box in words: "Total is at most 20,000 and Land leased is yes". */
function said(space: Space, box: Box): string {
  const { dimensions, table, names } = space
  const parts = box.flatMap((set, i) => {
    const dimension = dimensions[i]!
    const cell = set === null ? '-' : cellOf(dimension, set)
    if (cell === '-') return []
    const input = table.inputs.find(({ id }) => id === dimension.input)!
    const called = input.label || names.words.label(input.expression)
    const test = plainTests(cell ?? '', (value: Value) => names.words.show(value, input.expression))
    return [
      test.startsWith('where ') || test.startsWith('not where ')
        ? `${called}: ${test}`
        : `${called} is ${test}`,
    ]
  })
  return parts.length ? parts.join(' and ') : 'always'
}

/** One case of a box, by the inputs' expressions; columns that do not matter have none. */
function exampleOf({ dimensions, table }: Space, box: Box): Readonly<Record<string, string>> {
  const example: Record<string, string> = {}
  for (const [i, set] of box.entries()) {
    const { kind, stretches, input } = dimensions[i]!
    if (set === null || kind === 'condition') continue
    const { expression } = table.inputs.find(({ id }) => id === input)!
    // What lies between two values is the better example; at its edge is where people look first.
    const at = stretches.findIndex((stretch, place) => set[place] === 1 && !stretch.alone)
    const chosenAt = at >= 0 ? at : set.indexOf(1)
    const stretch = stretches[chosenAt]
    if (stretch) example[expression] = literal(stretch.value)
  }
  return example
}

function finding(
  space: Space,
  kind: Finding['kind'],
  weight: Weight,
  rows: readonly number[],
  says: string,
  box: Box,
): Finding {
  const sure = certain(space, box)
  return {
    kind,
    weight: sure || weight !== 'fault' ? weight : 'question',
    rows,
    says,
    cells: cellsOf(space, box),
    example: exampleOf(space, box),
    certain: sure,
  }
}

/** Rows that no case reaches: their own cells exclude each other, or rows that count before them take all. */
function impossible(space: Space, effort: Effort): readonly Finding[] {
  const { rows, table } = space
  const findings: Finding[] = []
  for (const [i, box] of rows.entries()) {
    if (isEmpty(box)) {
      findings.push(
        finding(space, 'never', 'question', [i], `Row ${i + 1} can never hold.`, everything(space)),
      )
      continue
    }
    const before = rows.flatMap((other, at) =>
      at !== i &&
      certain(space, other) &&
      comesBefore(table, at, i) &&
      meets(space.packed[at]!, space.packed[i]!)
        ? [at]
        : [],
    )
    if (!before.length) continue
    const left = uncovered(
      box,
      space.sizes,
      before.map((at) => rows[at]!),
      effort,
    )
    if (left.length || effort.left < 0) continue
    const taking = before.length === 1 ? `row ${before[0]! + 1} takes` : 'the rows before it take'
    findings.push(
      finding(
        space,
        'never',
        'question',
        [i, ...before],
        `Row ${i + 1} never counts: ${taking} all its cases.`,
        box,
      ),
    )
  }
  return findings
}

/** Whether a row counts before another wherever both hold. */
function comesBefore(table: RuleTable, a: number, b: number): boolean {
  if (table.hitPolicy === 'first') return a < b
  if (table.hitPolicy !== 'priority') return false
  const [first, second] = [priorityOf(table, table.rows[a]!), priorityOf(table, table.rows[b]!)]
  return first < second || (first === second && a < b)
}

/** Pairs of rows that both hold somewhere, and what the hit policy makes of it. */
function overlaps(space: Space, effort: Effort): readonly Finding[] {
  const { rows, table } = space
  const { hitPolicy } = table
  if (hitPolicy === 'collect' || hitPolicy === 'rule order' || hitPolicy === 'output order') return []
  const pairs: { readonly i: number; readonly j: number; readonly both: Box }[] = []
  for (let i = 0; i < rows.length; i++)
    for (let j = i + 1; j < rows.length; j++) {
      if (!mayLook(space, effort)) break
      if (!meets(space.packed[i]!, space.packed[j]!)) continue
      const allowed = chosen(table, [i, j])
      // Of rows where one counts before the other nothing is wrong as long as they say the same.
      if (allowed.ok && (hitPolicy === 'any' || space.says[i] === space.says[j])) continue
      const both = common(rows[i]!, rows[j]!)
      if (both) pairs.push({ i, j, both })
    }
  return told(pairs, (pair) => overlap(space, pair), 'pairs of rows that overlap')
}

function overlap(
  space: Space,
  { i, j, both }: { readonly i: number; readonly j: number; readonly both: Box },
): Finding {
  const where = said(space, both)
  const allowed = chosen(space.table, [i, j])
  return allowed.ok
    ? finding(
        space,
        'overlap',
        'remark',
        [i, j],
        `Rows ${i + 1} and ${j + 1} both hold where ${where}; row ${allowed.rows[0]! + 1} counts.`,
        both,
      )
    : finding(
        space,
        'contradiction',
        'fault',
        [i, j],
        `Rows ${i + 1} and ${j + 1} contradict each other where ${where}.`,
        both,
      )
}

/** Rows that add nothing, because another one that says the same holds wherever they do. */
function redundant(space: Space, effort: Effort): readonly Finding[] {
  const { rows, table } = space
  if (table.hitPolicy === 'unique') return []
  const covered = new Set<number>()
  const findings: Finding[] = []
  for (const [i, box] of rows.entries()) {
    if (isEmpty(box)) continue
    const by = rows.findIndex(
      (_, j) =>
        j !== i &&
        !covered.has(j) &&
        space.says[i] === space.says[j] &&
        mayLook(space, effort) &&
        packedInside(space.packed[i]!, space.packed[j]!, space.full) &&
        // Of two that are the same the later one is too many; of those that come one before the other, order must not change.
        (!packedInside(space.packed[j]!, space.packed[i]!, space.full) || j < i) &&
        (table.hitPolicy !== 'first' || isBetweenFree(space, i, j)),
    )
    if (by < 0) continue
    covered.add(i)
    findings.push(
      finding(
        space,
        'covered',
        'question',
        [i, by],
        `Row ${i + 1} says what row ${by + 1} says, which holds wherever it does.`,
        box,
      ),
    )
  }
  return findings
}

/** Whether no row between two says something else about the cases of the first. */
const isBetweenFree = ({ says, packed: boxes }: Space, i: number, j: number): boolean =>
  boxes.every(
    (other, k) =>
      k <= Math.min(i, j) || k >= Math.max(i, j) || says[k] === says[i] || !meets(other, boxes[i]!),
  )

/** Cases in which no row holds. */
function holes(space: Space, effort: Effort): readonly Finding[] {
  const { rows, table, sizes } = space
  if (!rows.length) return []
  const weight: Weight = table.otherwise === 'fault' ? 'fault' : 'remark'
  const found = uncovered(everything(space), sizes, rows, effort)
  const nothing = table.outputs.some(({ key }) => key === 'approver') ? 'Nobody is asked' : 'No row holds'
  return told(
    found,
    (box) => finding(space, 'hole', weight, [], `${nothing} where ${said(space, box)}.`, box),
    'cases without a row',
  )
}

/** Pairs of rows that say the same and differ in one column: one row can say both. */
function joinable(space: Space, effort: Effort): readonly Finding[] {
  const { rows, table, dimensions } = space
  const ordered = ['first', 'priority', 'rule order', 'output order'].includes(table.hitPolicy)
  const findings: Finding[] = []
  const taken = new Set<number>()
  for (let i = 0; i < rows.length; i++)
    for (let j = i + 1; j < (ordered ? Math.min(i + 2, rows.length) : rows.length); j++) {
      if (taken.has(i) || taken.has(j) || space.says[i] !== space.says[j]) continue
      if (!mayLook(space, effort)) break
      const [a, b] = [rows[i]!, rows[j]!]
      if (isEmpty(a) || isEmpty(b)) continue
      const differing = a.flatMap((set, at) => (sameSet(set, b[at]!) ? [] : [at]))
      const [at] = differing
      if (at === undefined || differing.length > 1 || dimensions[at]!.kind === 'condition') continue
      const [left, right] = [a[at]!, b[at]!]
      if (left === null || right === null || inside([left], [right]) || inside([right], [left])) continue
      const joined = a.map((set, place) => (place === at ? left.map((bit, k) => bit | right[k]!) : set))
      const cells = cellsOf(space, joined)
      if (!cells) continue
      taken.add(i).add(j)
      findings.push(
        finding(
          space,
          'joinable',
          'remark',
          [i, j],
          `Rows ${i + 1} and ${j + 1} could be one: where ${said(space, joined)}.`,
          joined,
        ),
      )
    }
  return findings
}

const sameSet = (a: Box[number], b: Box[number]): boolean =>
  a === b || (a !== null && b !== null && a.every((bit, i) => bit === b[i]))
