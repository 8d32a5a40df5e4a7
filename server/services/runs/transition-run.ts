import { and, eq, inArray, sql, type SQL } from 'drizzle-orm'
import { type RunMove, runMoves, runRefusal } from '#core/run/states.ts'
import type { Db } from '#server/db/connect.ts'
import { run } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'

type Run = typeof run.$inferSelect
type Values = { readonly [C in keyof Run]?: Run[C] | SQL | undefined }

/**
 * Makes a move of a run, the one way its state ever changes: in one statement, so that of two who come at once the second
 * finds what the first has made of it. Null where the move cannot be made, or not under `where`.
 */
export async function tryTransitionRun(
  db: Db,
  id: string,
  made: RunMove,
  { set = {}, where }: { readonly set?: Values; readonly where?: SQL } = {},
): Promise<Run | null> {
  const moves = runMoves(made)
  const to = sql.join(
    moves.map(([from, state]) => sql`when ${from} then ${state}`),
    sql` `,
  )
  const [moved] = await db
    .update(run)
    .set({ state: sql`case ${run.state} ${to} end`, ...set } as never)
    .where(
      and(
        eq(run.id, id),
        inArray(
          run.state,
          moves.map(([from]) => from),
        ),
        where,
      ),
    )
    .returning()
  return moved ?? null
}

/** The same, refused in words where it cannot be made. */
export async function transitionRun(db: Db, id: string, made: RunMove, set: Values = {}): Promise<Run> {
  const moved = await tryTransitionRun(db, id, made, { set })
  if (moved) return moved
  const [found] = await db.select().from(run).where(eq(run.id, id))
  if (!found) throw notFound('run')
  throw conflict((found.state === 'failed' && found.problem) || runRefusal(found.state, made))
}
