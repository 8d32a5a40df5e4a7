/** The largest table that is taken. Kept apart from the reader, whose libraries only the threads load. */
export const SHEET_LIMITS = {
  bytes: 20 * 1024 * 1024,
  rows: 100_000,
  columns: 500,
  cellLength: 32_767,
} as const
