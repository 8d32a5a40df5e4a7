import type { PoolClient } from 'pg'
import type { App } from '#server/app/app.ts'
import type { JobData, JobName } from '#server/queue/job-data.ts'
import { writeAct } from '#server/app/installation-trail.ts'
import { onClient } from '#server/db/connect.ts'
import type { Db } from '#server/db/connect.ts'

/** An open transaction: queries, and jobs that start only if it commits. */
export interface Work {
  readonly db: Db
  enqueue<N extends JobName>(name: N, data: JobData[N]): Promise<void>
}

/** Runs `act` in one transaction; what it throws rolls everything back, jobs and what the trail would say included. */
export async function transaction<T>(app: App, act: (work: Work) => Promise<T>): Promise<T> {
  const client: PoolClient = await app.pool.connect()
  let broken: Error | undefined
  let unwritten = () => undefined as void
  try {
    await client.query('begin')
    const db = onClient(client)
    const result = await act({ db, enqueue: (name, data) => app.queue.send(name, data, client) })
    unwritten = await writeAct(db)
    await client.query('commit')
    return result
  } catch (error) {
    unwritten()
    await client.query('rollback').catch((failure: Error) => (broken = failure))
    throw error
  } finally {
    client.release(broken)
  }
}
