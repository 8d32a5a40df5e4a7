import type { RuleNames } from '../names.ts'
import type { RuleTable } from '../table.ts'
import type { Box, Packed } from './boxes.ts'
import type { Dimension } from './dimension.ts'

/** How grave a finding is: the table may not be put in force, somebody should look, or it is only told. */
export type Weight = 'fault' | 'question' | 'remark'

/** Something that was found in a rule table, with an example that shows it. */
export interface Finding {
  readonly kind: 'hole' | 'contradiction' | 'overlap' | 'never' | 'covered' | 'joinable'
  readonly weight: Weight
  /** Rows it is about, by their places from 0. */
  readonly rows: readonly number[]
  readonly says: string
  /** The cells that say where, by input; null where cells cannot say it. A hole is closed by a row of these. */
  readonly cells: Readonly<Record<string, string>> | null
  /** A case of it: a FEEL literal by the input's expression. */
  readonly example: Readonly<Record<string, string>>
  /** False where it rests on tests that are not understood: then there may be no such case. */
  readonly certain: boolean
}

/** Findings of one kind that are told at the most. */
export const TOLD = 60

/** All cases of a table, as boxes over its inputs. */
export interface Space {
  readonly table: RuleTable
  readonly names: RuleNames
  readonly dimensions: readonly Dimension[]
  readonly rows: readonly Box[]
  readonly sizes: readonly number[]
  readonly packed: readonly Packed[]
  /** All of each dimension, packed. */
  readonly full: readonly Uint32Array[]
  /** What each row says, in one form. */
  readonly says: readonly string[]
}
