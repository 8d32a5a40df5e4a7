/** The beginning of a text, so many UTF-16 units at the most; a sign of two is whole or not there, as JSON and PostgreSQL want it. */
export const cut = (text: string, most: number): string => {
  const begun = text.slice(0, most)
  return begun.isWellFormed() ? begun : begun.slice(0, -1).toWellFormed()
}

/** The first sign of a text, whole, as a capital; empty where there is none. */
export const initial = (text: string): string => ([...text][0] ?? '').toUpperCase()
