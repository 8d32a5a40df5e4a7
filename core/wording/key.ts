// A wording's key: the ids of the passages it keeps; in packets an id has its document's place before it (`passageKey`). This
// is the one place that writes or reads such keys.

/** The key of a wording, from the passages that it keeps. */
export const keyOfPassages = (passages: readonly string[]): string => passages.join(' ')

/** Those of an empty key are none. */
export const passagesOf = (key: string): readonly string[] => (key ? key.split(' ') : [])
