interface Turns<T> {
  /** Takes the one whose turn it is, past those that others have in hand; undefined: none is left. */
  readonly take: () => Promise<T | undefined>
  /** Makes it. What was taken may have been made by another meanwhile, so it looks first, in the transaction that ends it. */
  readonly make: (taken: T) => Promise<void>
  /** Notes what became of one that failed, and lets it go. */
  readonly failed: (taken: T, error: unknown) => Promise<void>
}

/** Makes what waits, one after the other, until nothing is left that nobody else makes; one that fails holds up no other. */
export async function takeTurns<T>({ take, make, failed }: Turns<T>): Promise<void> {
  for (let taken = await take(); taken; taken = await take())
    try {
      await make(taken)
    } catch (error) {
      await failed(taken, error)
    }
}
