import type { KnownBy } from './duplicates.ts'

/** How a run takes its rows from its source, besides the mapping of columns to fields. */
export interface RunSetup {
  /** FEEL over the columns: only rows for which it is true are taken. Null: all. */
  readonly rule: string | null
  /** Columns whose equal values make rows one agreement; empty: each row is one. */
  readonly groupBy: readonly string[]
  /** Values that are the same for all rows, by field, as typed. */
  readonly values: Readonly<Record<string, string>>
  /** Fields whose value is asked for row by row. */
  readonly askRows: readonly string[]
  /** By what two rows are of the same customer; null: by what tells them best (`keyColumn`), else by their names. */
  readonly sameBy: KnownBy | null
  /** Whether the same customer twice, or one with a live agreement, is asked about. */
  readonly duplicates: 'ask' | 'allow'
  /** Columns that tell each row's language, further receivers of the executed document, and file that goes along. */
  readonly languageColumn: string | null
  readonly copiesColumn: string | null
  readonly fileColumn: string | null
  /** Pattern of the documents' file names; null: the template's. */
  readonly fileName: string | null
}

/** A run’s set-up before anybody has said anything. */
export const plainSetup: RunSetup = {
  rule: null,
  groupBy: [],
  values: {},
  askRows: [],
  sameBy: null,
  duplicates: 'ask',
  languageColumn: null,
  copiesColumn: null,
  fileColumn: null,
  fileName: null,
}
