/** The largest table that is taken. Kept apart from the reader, whose libraries only the threads load. */
export const SHEET_LIMITS = {
  bytes: 20 * 1024 * 1024,
  rows: 100_000,
  columns: 500,
  /** Rows times their width, over all sheets of a file. */
  cells: 6_000_000,
  cellLength: 32_767,
  /** Joined cells that are looked at; more say nothing of a table. */
  joined: 20_000,
} as const
