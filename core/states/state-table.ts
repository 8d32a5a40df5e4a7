/** A move: the states it can be made in, and the one it leads to. */
export interface StateMove<S extends string> {
  readonly from: readonly S[]
  readonly to: S
}

/**
 * The states of a kind and all that can happen to them. The database's check and the API's list are made from `states`; a state
 * changes by a move alone (`server/db/moving.ts`), so that two who compete cannot both win.
 */
export interface StateTable<S extends string = string, M extends string = string> {
  readonly states: readonly [S, ...S[]]
  /** Those in which one comes to be. */
  readonly begins: readonly S[]
  readonly moves: Readonly<Record<M, StateMove<S>>>
}

/** Keeps the names of states and moves. */
export const stateTable = <const S extends string, const M extends string>(
  table: StateTable<S, M>,
): StateTable<S, M> => table

/** The names of a table's states. */
export type StateOf<T> = T extends StateTable<infer S, string> ? S : never

/** The states that no move leads out of, but back to where it is. */
export const endsOf = <S extends string>({ states, moves }: StateTable<S, string>): readonly S[] =>
  states.filter((state) => !Object.values(moves).some(({ from, to }) => from.includes(state) && to !== state))
