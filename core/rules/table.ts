import type { OutputKey } from './outputs.ts'

/** What becomes of several rows that hold (OMG DMN 1.3, 8.2.8). */
export const HIT_POLICIES = {
  unique: 'one row at most holds',
  any: 'rows that hold say the same',
  first: 'the first row that holds counts',
  priority: 'of the rows that hold, the one with the highest output counts',
  collect: 'all rows that hold count',
  'rule order': 'all rows that hold count, in the order of the rows',
  'output order': 'all rows that hold count, the highest output first',
} as const
export type HitPolicy = keyof typeof HIT_POLICIES

/** Which agreements a table is about. */
export type Scope =
  { readonly kind: 'all' } | { readonly kind: 'shelf' | 'template' | 'packet'; readonly id: string }

/** One column of conditions: a FEEL expression that its cells test. */
export interface Input {
  readonly id: string
  readonly label: string
  readonly expression: string
  /** Width of the column in pixels, where somebody has drawn it. */
  readonly width?: number | undefined
}

/** One output column. */
export interface Output {
  readonly key: OutputKey
  readonly width?: number | undefined
}

/** One row: its cells by input and by output. */
export interface Row {
  readonly id: string
  /** FEEL unary tests by the input's id; absent and `-`: anything. */
  readonly when: Readonly<Record<string, string>>
  /** What it says, by output, as written. */
  readonly then: Readonly<Partial<Record<OutputKey, string>>>
  readonly note: string
}

/** A rule table, as drafts and editions keep it. */
export interface RuleTable {
  readonly name: string
  readonly scope: Scope
  readonly hitPolicy: HitPolicy
  /** A value that a row tests and nobody has given: somebody is asked for it, or the row does not hold. */
  readonly missing: 'ask' | 'does not hold'
  /** Where no row holds: nothing is asked for, or the table is at fault. */
  readonly otherwise: 'nothing' | 'fault'
  readonly inputs: readonly Input[]
  readonly outputs: readonly Output[]
  readonly rows: readonly Row[]
  /** Outputs from the highest to the lowest, as written, for the policies that ask for it. */
  readonly priorities: readonly string[]
  /** Who hears of, and may decide, what is overdue; empty: nobody. */
  readonly escalateTo: string
}

/** How much a table takes: far more than anybody has read through. */
export const TABLE_LIMITS = { rows: 1000, inputs: 20, cell: 1000, note: 500 } as const

/** An edition of a table that decides now. */
export interface TableInForce {
  readonly id: string
  readonly edition: number
  readonly table: RuleTable
}

/** Whether a row's cell asks nothing. */
export const isAnything = (cell: string | undefined): boolean => ['', '-'].includes((cell ?? '').trim())
