/** The one row that a query has to find: of an insert, or of what refers to it. Throws if it is not there, which is a fault of ours. */
export function one<T>(rows: readonly T[]): T {
  const [row] = rows
  if (row === undefined) throw new Error('A row that has to be there is not.')
  return row
}
