const letter = (n: number): string =>
  (n > 26 ? letter(Math.floor((n - 1) / 26)) : '') + String.fromCharCode(97 + ((n - 1) % 26))

/** What stands before a clause: 2 · 2.1 · (a). The third level is lettered, after the manner of contracts. */
export const clauseNumber = (place: readonly number[]): string =>
  place.length <= 2 ? place.join('.') : `(${letter(place.at(-1)!)})`

/** The number by which a clause is referred to from anywhere: 2.1(a). */
export const fullNumber = (place: readonly number[]): string =>
  place.slice(0, 2).join('.') +
  place
    .slice(2)
    .map((n) => `(${letter(n)})`)
    .join('')
