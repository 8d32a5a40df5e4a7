import { eq } from 'drizzle-orm'
import type { App } from '#server/app/app.ts'
import { run } from '#server/db/schema.ts'
import { generateRun } from '#server/services/making/make-run.ts'

/** Runs that a worker is making just now. */
const making = new WeakMap<App, Set<string>>()

/** Makes a run, if this worker is not at it already. */
export async function makeOnce(app: App, runId: string): Promise<void> {
  const runs = making.get(app) ?? new Set<string>()
  making.set(app, runs)
  if (runs.has(runId)) return
  runs.add(runId)
  await generateRun(app, runId).finally(() => runs.delete(runId))
}

/**
 * Lends a hand with every run in the making: the queue tells one worker of a run; the others find it here, and so does one
 * whose job was lost with the database.
 */
export async function lendHand(app: App): Promise<void> {
  const found = await app.db.select({ id: run.id }).from(run).where(eq(run.state, 'generating'))
  for (const { id } of found)
    void makeOnce(app, id).catch((error: unknown) =>
      app.log.warn({ err: error, run: id }, 'making was broken off'),
    )
}
