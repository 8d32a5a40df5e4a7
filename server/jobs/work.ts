import { eq } from 'drizzle-orm'
import type { App } from '#server/app.ts'
import { run } from '#server/db/schema.ts'
import { executeAgreement } from '#server/services/executing.ts'
import { deliverMail } from '#server/services/mails.ts'
import { generateRun } from '#server/services/make.ts'
import { measureRun } from '#server/services/measure.ts'
import { checkRun } from '#server/services/run-check.ts'
import { fillOutput } from '#server/services/run-outputs.ts'

/** Held by every worker, shared; whoever gets it alone knows that no other worker lives. */
const WORKERS_LOCK = 727002

/**
 * Takes up work: first what a worker that died left behind (its jobs, and runs in the making), then the queues.
 * Returns what ends it.
 */
export async function startWork(app: App): Promise<() => Promise<void>> {
  const presence = await app.pool.connect()
  const { rows } = await presence.query<{ alone: boolean }>('select pg_try_advisory_lock($1) as alone', [
    WORKERS_LOCK,
  ])
  if (rows[0]?.alone) await app.queue.releaseAbandoned(presence)
  await presence.query('select pg_advisory_lock_shared($1)', [WORKERS_LOCK])
  if (rows[0]?.alone) await presence.query('select pg_advisory_unlock($1)', [WORKERS_LOCK])
  for (const { id } of await app.db.select({ id: run.id }).from(run).where(eq(run.state, 'generating')))
    await app.queue.send('generate-run', { runId: id })
  await app.queue.work('check-run', 1, ({ runId }) => checkRun(app, runId))
  await app.queue.work('measure-run', 1, ({ runId }) => measureRun(app, runId))
  await app.queue.work('make-output', 1, ({ outputId, rows }) => fillOutput(app, outputId, rows))
  await app.queue.work('generate-run', 1, ({ runId }) => generateRun(app, runId))
  await app.queue.work('send-mail', 2, ({ key }) => deliverMail(app, key))
  await app.queue.work('execute-agreement', 2, ({ agreementId }) => executeAgreement(app, agreementId))
  return async () => {
    await app.queue.stop()
    presence.release(true)
  }
}
