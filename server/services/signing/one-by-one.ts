import { eq } from 'drizzle-orm'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { agreement } from '#server/db/schema.ts'
import { Refusal } from '#server/ground/problem.ts'

/** One of many that was not done, by its number; `error`: as it was refused. */
interface Refused {
  readonly number: string
  readonly error: Refusal
}

/** Does the same with each of many agreements in a transaction of its own: one that is refused does not hold up the others. */
export async function oneByOne(
  app: App,
  ids: readonly string[],
  act: (work: Work, id: string) => Promise<void>,
): Promise<{ readonly done: number; readonly refused: readonly Refused[] }> {
  let done = 0
  const refused: Refused[] = []
  for (const id of new Set(ids))
    try {
      await transaction(app, (work) => act(work, id))
      done++
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      const [found] = await app.db
        .select({ number: agreement.number })
        .from(agreement)
        .where(eq(agreement.id, id))
      refused.push({ number: found?.number ?? id, error })
    }
  return { done, refused }
}

/** The same as it is told to whoever asked for it. */
export const toRefusalViews = (refused: readonly Refused[]) =>
  refused.map(({ number, error }) => ({ number, problem: error.message }))
