import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Work } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'

interface Turns<T> {
  /** The one whose turn it is, locked past those that others have in hand (`skip locked`); undefined: none is left. */
  readonly next: (db: Db) => Promise<T | undefined>
  readonly make: (work: Work, taken: T) => Promise<void>
  /** Notes what became of one that failed, in a transaction of its own. */
  readonly failed: (taken: T, error: unknown) => Promise<void>
}

/** Makes what waits, each in one transaction, until nothing is left that nobody else makes; one that fails holds up no other. */
export async function takeTurns<T>(app: App, { next, make, failed }: Turns<T>): Promise<void> {
  for (;;) {
    let taken: T | undefined
    try {
      await transaction(app, async (work) => {
        taken = await next(work.db)
        if (taken) await make(work, taken)
      })
    } catch (error) {
      if (!taken) throw error
      await failed(taken, error)
    }
    if (!taken) return
  }
}
