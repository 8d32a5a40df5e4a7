import type { ColumnType } from '#core/outline/cell.ts'
/** A sheet that is read wrong by whoever takes it at its first look. */
export interface AwkwardSheet {
  readonly file: string
  /** What is awkward about it. */
  readonly fault: string
  readonly bytes: () => Promise<Uint8Array>
  /** What has to come of it: the columns' names, the rows taken as data, and how many are set aside. */
  readonly names: readonly string[]
  readonly rows: number
  readonly aside?: number
  readonly types?: Readonly<Record<string, ColumnType>>
  /** What the first row of data says, by column. */
  readonly first?: Readonly<Record<string, string>>
  /** A second reader does not know this format, or reads it otherwise for the reason given. */
  readonly alone?: string
}

export interface AwkwardDocument {
  readonly file: string
  readonly fault: string
  /** The body, in WordprocessingML. */
  readonly body: string
  /** Further parts of the package, by their paths. */
  readonly parts?: Readonly<Record<string, string>>
  /** Words that have to be in the template, in this order. */
  readonly keeps: readonly string[]
  /** Fields it has to have. */
  readonly fields?: readonly string[]
  /** A second reader reads it otherwise, for the reason given. */
  readonly alone?: string
  /** What the report has to tell. */
  readonly tells?: RegExp
}
