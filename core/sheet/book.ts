import type { CellRow } from '../outline/cell.ts'
import type { Encoding } from './encodings.ts'
import type { MergedCells } from './header.ts'

/** One sheet of a file; `rows[0]` is its row 1. */
export interface BookTable {
  readonly name: string
  readonly rows: readonly CellRow[]
  readonly joined: readonly MergedCells[]
  /** Rows the sheet does not show, from 0: hidden by hand or by a filter. */
  readonly hidden?: ReadonlySet<number>
}

/** A range of a sheet that has a name. */
export interface NamedRange {
  readonly name: string
  readonly table: string
  /** As "A3:F200". */
  readonly range: string
}

/** A file of tables, whatever its format. */
export interface Book {
  readonly kind: 'text' | 'xlsx' | 'ods' | 'json'
  readonly tables: readonly BookTable[]
  readonly names: readonly NamedRange[]
  /** How it was read where that was a guess: the delimiter and the encoding of a text file. */
  readonly delimiter: string | null
  readonly encoding: Encoding | null
  /** What the reader did that nobody asked for, in words. */
  readonly notes?: readonly string[]
}

/** What somebody has said of how a file is to be read; null: it is found out. */
export interface Reading {
  readonly table: string | null
  /** "A3:F200", or the name of a named range. */
  readonly range: string | null
  /** 0: no row names the columns. */
  readonly headerRow: number | null
  readonly delimiter: string | null
  readonly encoding: Encoding | null
}

/** Everything about how a file is read is found out. */
export const ASKED_NOTHING: Reading = {
  table: null,
  range: null,
  headerRow: null,
  delimiter: null,
  encoding: null,
}
