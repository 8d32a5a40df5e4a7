/** Places in a signing order as a list: those joined to the one before act at the same time. */
export interface Placed {
  readonly joined: boolean
}

/** The order numbers of a list, from 1; joined ones have that of the one before. */
export function ordersOf(list: readonly Placed[]): readonly number[] {
  let order = 0
  return list.map(({ joined }, i) => (i === 0 || !joined ? ++order : order))
}

/** A list in the order of its numbers, with what is joined; ties keep their places. */
export function placedBy<T extends { readonly order: number }>(
  parties: readonly T[],
): readonly (T & Placed)[] {
  const sorted = [...parties].sort((a, b) => a.order - b.order)
  return sorted.map((party, i) => ({ ...party, joined: i > 0 && sorted[i - 1]!.order === party.order }))
}

/**
 * The list with one moved to another place. It stands alone there, and whoever was joined to it stands where it was: moving one never
 * changes who else acts together, but for those that were joined to it as the first.
 */
export function movedTo<T extends Placed>(list: readonly T[], from: number, to: number): readonly T[] {
  if (from === to || !list[from]) return list
  const rest = list.map((each, i) =>
    i === from + 1 && !list[from]!.joined ? { ...each, joined: false } : each,
  )
  const [taken] = rest.splice(from, 1)
  rest.splice(to, 0, { ...taken!, joined: false })
  // What stood behind the new place was not joined to the one that came between.
  return rest.map((each, i) => (i === 0 ? { ...each, joined: false } : each))
}
