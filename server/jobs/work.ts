import { eq } from 'drizzle-orm'
import type { App } from '#server/app.ts'
import { run } from '#server/db/schema.ts'
import { followRecords } from '#server/services/deal-sources.ts'
import { executeAgreement } from '#server/services/executing.ts'
import { deliverMail } from '#server/services/mails.ts'
import { generateRun } from '#server/services/make.ts'
import { measureRun } from '#server/services/measure.ts'
import { checkRun } from '#server/services/run-check.ts'
import { fillOutput } from '#server/services/run-outputs.ts'
import { sweepNight } from '#server/services/sweeping.ts'
import { closeDay } from '#server/services/verifying.ts'
import { keepPresence } from './presence.ts'

/** Milliseconds between two looks for runs in the making that this worker could lend a hand with. */
const LOOK = 1500
const SWEEP = 20_000

/**
 * Takes up work: first what workers that died left behind, then the queues, and runs in the making, whoever began them.
 * Returns what ends it.
 */
export async function startWork(app: App): Promise<() => Promise<void>> {
  const leave = await keepPresence(app, (client) => app.queue.releaseAbandoned(client))
  const making = new Set<string>()
  const make = async (runId: string): Promise<void> => {
    if (making.has(runId)) return
    making.add(runId)
    await generateRun(app, runId).finally(() => making.delete(runId))
  }
  /** The queue tells one worker of a run; the others find it here, and so does one whose job was lost with the database. */
  const help = async (): Promise<void> => {
    const found = await app.db.select({ id: run.id }).from(run).where(eq(run.state, 'generating'))
    for (const { id } of found)
      void make(id).catch((error: unknown) => app.log.warn({ err: error, run: id }, 'making was broken off'))
  }
  const look = setInterval(() => void help().catch(() => undefined), LOOK)
  const sweep = setInterval(() => void app.files.sweep().catch(() => undefined), SWEEP)
  await app.files.sweep()
  await app.queue.work('check-run', 1, ({ runId }) => checkRun(app, runId))
  await app.queue.work('measure-run', 1, ({ runId }) => measureRun(app, runId))
  await app.queue.work('make-output', 1, ({ outputId, rows }) => fillOutput(app, outputId, rows))
  await app.queue.work('generate-run', 1, ({ runId }) => make(runId))
  await app.queue.work('follow-records', 1, () => followRecords(app))
  await app.queue.work('send-mail', 2, ({ key }) => deliverMail(app, key))
  await app.queue.work('execute-agreement', 2, ({ agreementId }) => executeAgreement(app, agreementId))
  await app.queue.work('close-day', 1, async () => {
    await closeDay(app)
    await sweepNight(app)
  })
  return async () => {
    clearInterval(look)
    clearInterval(sweep)
    await app.queue.stop()
    leave()
  }
}
