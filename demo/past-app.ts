import type { PoolClient } from 'pg'
import type { App } from '#server/app/app.ts'
import type { JobData, JobName } from '#server/queue/job-data.ts'
import type { Queue } from '#server/queue/queue.ts'
import { executeAgreement } from '#server/services/signing/executing.ts'
import { generateRun } from '#server/services/making/make-run.ts'
import { checkRun } from '#server/services/runs/run-check.ts'
import { mail } from '#server/db/schema.ts'
import { eq } from 'drizzle-orm'

/** The application at another time, with its jobs done on the spot: for making a past through the services of the present. */
export interface PastApp extends App {
  /** Turns the clock. */
  at(instant: Date): void
  /** Does the jobs that were asked for, and those that come of them. */
  work(): Promise<void>
}

type Job = { readonly [N in JobName]: { readonly name: N; readonly data: JobData[N] } }[JobName]

export function pastApp(app: App, start: Date): PastApp {
  let now = start
  const jobs: Job[] = []
  // A job of a transaction that fails is left over and finds nothing to do.
  const queue = {
    send: (name: JobName, data: JobData[JobName], _client?: PoolClient) => {
      jobs.push({ name, data } as Job)
      return Promise.resolve()
    },
  } as unknown as Queue
  const past: PastApp = {
    ...app,
    queue,
    now: () => now,
    at: (instant) => void (now = instant),
    async work() {
      for (let job = jobs.shift(); job; job = jobs.shift()) await perform(past, job)
    },
  }
  return past
}

async function perform(app: App, job: Job): Promise<void> {
  switch (job.name) {
    case 'check-run':
      return checkRun(app, job.data.runId)
    case 'generate-run':
      return generateRun(app, job.data.runId)
    case 'execute-agreement':
      return executeAgreement(app, job.data.agreementId)
    case 'send-mail':
      // Of the past nobody's mailbox has anything left; that it was sent is all that remains.
      await app.db.update(mail).set({ sentAt: app.now(), body: null }).where(eq(mail.key, job.data.key))
      return
    default:
      return
  }
}
