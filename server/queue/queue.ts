import { setTimeout as pause } from 'node:timers/promises'
import type { Pool, PoolClient, QueryResult } from 'pg'
import PgBoss from 'pg-boss'
import type { Logger } from 'pino'
import { connect } from '#server/db/connect.ts'
import type { JobData, JobName, JobOptions } from './job-data.ts'

const CONNECTIONS = 4
/** Behind which those that start queue up. */
const START_LOCK = 727_003
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
    this.pool = connect(url, CONNECTIONS, (tries, error) =>
      log.warn({ err: error, tries }, 'the queue met a conflict and says it again'),
    ).pool
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

  /** Does `act` while no other process does what asks for the same lock. */
  async alone(lock: number, act: () => Promise<void>): Promise<void> {
    const client = await this.pool.connect()
    try {
      await client.query('select pg_advisory_lock($1)', [lock])
      await act()
      await client.query('select pg_advisory_unlock($1)', [lock])
      client.release()
    } catch (error) {
      // With its connection the lock goes.
      client.release(true)
      throw error
    }
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
    private readonly jobs: Readonly<Record<JobName, JobOptions>>,
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

  /**
   * Makes what is made once by whoever comes first: others that start at the same time wait for their turn, for the queues'
   * tables are made under locks that would stand in each other's way, and in that of those that work already.
   */
  async start(): Promise<void> {
    await this.connections.alone(START_LOCK, async () => {
      await this.boss.start()
      const there = new Set((await this.boss.getQueues()).map(({ name }) => name))
      for (const [name, { retry, cron }] of Object.entries(this.jobs)) {
        if (there.has(name)) await this.boss.updateQueue(name, { name, ...retry })
        else await this.boss.createQueue(name, { name, ...retry })
        if (this.supervise && cron) await this.boss.schedule(name, cron)
      }
    })
  }

  async stop(): Promise<void> {
    await this.boss.stop({ graceful: true, timeout: 5000, wait: true })
    await this.connections.close()
  }

  async send<N extends JobName>(name: N, data: JobData[N], client?: PoolClient): Promise<void> {
    const db = client && { executeSql: (text: string, values: unknown[]) => client.query(text, values) }
    const { retry } = this.jobs[name]
    await this.boss.send(name, data, db ? { ...retry, db } : retry)
  }

  /** Takes jobs of a name, so many at a time; `act` is given each with its id. */
  async work<N extends JobName>(
    name: N,
    lanes: number,
    act: (data: JobData[N], id: string) => Promise<void>,
  ): Promise<void> {
    for (let lane = 0; lane < lanes; lane++)
      await this.boss.work<JobData[N]>(name, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async (jobs) => {
        for (const job of jobs) await act(job.data, job.id)
      })
  }
}
