import { setTimeout as pause } from 'node:timers/promises'
import type { Pool, PoolClient, QueryResult } from 'pg'
import PgBoss from 'pg-boss'
import type { Logger } from 'pino'
import { connect } from '#server/db/connect.ts'

/** Every job may run twice, or after a crash once more: each finds out by itself what is left to do. */
export interface JobData {
  readonly 'check-run': { readonly runId: string }
  readonly 'measure-run': { readonly runId: string }
  readonly 'make-output': { readonly outputId: string; readonly rows: readonly number[] }
  readonly 'generate-run': { readonly runId: string }
  readonly 'follow-records': Record<string, never>
  readonly 'send-mail': { readonly key: string }
  readonly 'execute-agreement': { readonly agreementId: string }
  readonly 'close-day': Record<string, never>
}
export type JobName = keyof JobData

const QUEUES: Record<
  JobName,
  { retryLimit: number; retryDelay: number; retryBackoff: boolean; expireInSeconds: number }
> = {
  'check-run': { retryLimit: 3, retryDelay: 1, retryBackoff: true, expireInSeconds: 300 },
  'measure-run': { retryLimit: 1, retryDelay: 1, retryBackoff: true, expireInSeconds: 1800 },
  'make-output': { retryLimit: 3, retryDelay: 1, retryBackoff: true, expireInSeconds: 1800 },
  'generate-run': { retryLimit: 5, retryDelay: 1, retryBackoff: true, expireInSeconds: 3600 },
  'follow-records': { retryLimit: 3, retryDelay: 1, retryBackoff: true, expireInSeconds: 300 },
  'send-mail': { retryLimit: 12, retryDelay: 2, retryBackoff: true, expireInSeconds: 60 },
  'execute-agreement': { retryLimit: 8, retryDelay: 2, retryBackoff: true, expireInSeconds: 120 },
  'close-day': { retryLimit: 2, retryDelay: 60, retryBackoff: true, expireInSeconds: 7200 },
}

/** Jobs that come by themselves, by the clock in UTC (cron). */
const SCHEDULE: Partial<Record<JobName, string>> = { 'close-day': '10 2 * * *' }

const CONNECTIONS = 4
/** Milliseconds between two tries to reach a database that is away. */
const AGAIN = 500

/** Whether a query failed because the database was not there, rather than by what it said. */
const isLost = (error: unknown): boolean => {
  const { code = '', message = '' } = error as { code?: string; message?: string }
  return /^(ECONN\w+|EPIPE|57P0[123]|08\w{3})$/.test(code) || /connection (terminated|error)/i.test(message)
}

/**
 * The queue's connections. It tells the database that a job has ended without waiting for the answer, so that a refusal
 * would end the process: a database that is away is waited for here. What it says may be said twice.
 */
class QueueConnections {
  private open = true
  private readonly pool: Pool

  constructor(url: string, log: Logger) {
    this.pool = connect(url, CONNECTIONS).pool
    this.pool.on('error', (error) => log.warn({ err: error }, 'queue'))
  }

  async executeSql(text: string, values: unknown[] = []): Promise<Pick<QueryResult, 'rows'>> {
    while (this.open)
      try {
        return await this.pool.query(text, values)
      } catch (error) {
        if (!isLost(error)) throw error
        await pause(AGAIN)
      }
    // What is still said while the process ends, nobody waits for.
    return { rows: [] }
  }

  async close(): Promise<void> {
    this.open = false
    await this.pool.end()
  }
}

/** The queue on PostgreSQL. Sending takes part in the caller's transaction. */
export class Queue {
  private readonly boss: PgBoss
  private readonly connections: QueueConnections

  constructor(
    url: string,
    log: Logger,
    private readonly supervise: boolean,
  ) {
    this.connections = new QueueConnections(url, log)
    this.boss = new PgBoss({
      db: this.connections,
      supervise,
      schedule: supervise,
      maintenanceIntervalSeconds: 30,
    })
    this.boss.on('error', (error) => log.error({ err: error }, 'queue'))
  }

  async start(): Promise<void> {
    await this.boss.start()
    for (const [name, options] of Object.entries(QUEUES))
      await this.boss.createQueue(name, { name, ...options })
    if (this.supervise)
      for (const [name, cron] of Object.entries(SCHEDULE)) await this.boss.schedule(name, cron)
  }

  async stop(): Promise<void> {
    await this.boss.stop({ graceful: true, timeout: 5000, wait: true })
    await this.connections.close()
  }

  async send<N extends JobName>(name: N, data: JobData[N], client?: PoolClient): Promise<void> {
    const db = client && { executeSql: (text: string, values: unknown[]) => client.query(text, values) }
    await this.boss.send(name, data, db ? { ...QUEUES[name], db } : QUEUES[name])
  }

  async work<N extends JobName>(
    name: N,
    lanes: number,
    act: (data: JobData[N]) => Promise<void>,
  ): Promise<void> {
    for (let lane = 0; lane < lanes; lane++)
      await this.boss.work<JobData[N]>(name, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async (jobs) => {
        for (const job of jobs) await act(job.data)
      })
  }

  /**
   * Puts jobs back that a worker which no longer lives had taken: called when a worker starts and holds the only
   * worker's lock, so that nothing waits for an expiry after a crash.
   */
  async releaseAbandoned(client: { query(text: string): Promise<unknown> }): Promise<void> {
    await client.query(
      `update pgboss.job set state = 'retry', started_on = null, start_after = now() where state = 'active'`,
    )
  }
}
