/** The names of a record that has one entry for each, in their order. */
export const keysOf = <K extends string>(record: Readonly<Record<K, unknown>>): readonly K[] =>
  Object.keys(record) as K[]
