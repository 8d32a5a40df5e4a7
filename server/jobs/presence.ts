import type { PoolClient } from 'pg'
import type { App } from '#server/app/app.ts'
import { onClient } from '#server/db/connect.ts'
import { freeHeld } from '#server/db/held.ts'

/** First key of the lock that a worker holds for as long as it lives; the second is its number. */
const WORKER_LOCK = 727_002
const AGAIN = 1000
/** Seconds that a job may be in hand before its worker has said that it is. */
const UNSAID = 30

/** Jobs in hand, put back for the next worker; a condition on them follows. The times of jobs are the queue's, by the database's clock. */
const PUT_BACK = `update pgboss.job set state = 'retry', started_on = null, start_after = now() where state = 'active'`

/**
 * Keeps a worker known to the database for as long as it lives, with the jobs it has in hand. What one that died had in hand
 * others put back: its lock is free once its connection is gone. Those of the living are left alone, wherever they run.
 */
export class Presence {
  private stopped = false
  private held: PoolClient | null = null
  private worker = 0

  constructor(private readonly app: App) {}

  /** Comes to be known, and takes up what the dead left behind; again by itself after the database was away. */
  async appear(): Promise<void> {
    const client = await this.app.pool.connect()
    try {
      // In one statement: no other worker sees the row before the lock is held.
      const { rows } = await client.query<{ id: number }>(
        `with made as (insert into worker (started_at, holder) values ($3, $2) returning id)
         select id, pg_advisory_lock($1, id) from made`,
        [WORKER_LOCK, this.app.holder, this.app.now()],
      )
      this.worker = rows[0]!.id
    } catch (error) {
      client.release(true)
      throw error
    }
    this.held = client
    client.once('end', () => {
      if (this.stopped) return
      this.held = null
      client.release(true)
      this.app.log.warn('the database went away')
      void this.comeBack()
    })
    // It was to end while it was coming (back).
    if (this.stopped) return this.end()
    await this.freeDead()
  }

  /** Does a job that is said to be in this worker's hand meanwhile. */
  async during(job: string, act: () => Promise<void>): Promise<void> {
    const { pool } = this.app
    await pool.query(
      'insert into worker_job (job, worker) values ($1, $2) on conflict (job) do update set worker = excluded.worker',
      [job, this.worker],
    )
    try {
      await act()
    } finally {
      await pool.query('delete from worker_job where job = $1', [job]).catch(() => undefined)
    }
  }

  /** Puts back the jobs of workers that live no more, and those that nobody has said to have in hand. */
  async freeDead(): Promise<void> {
    const { pool } = this.app
    const { rows } = await pool.query<{ id: number }>('select id from worker where id <> $1', [this.worker])
    for (const { id } of rows) await this.freeIfDead(id)
    await pool.query(
      `${PUT_BACK} and started_on < now() - make_interval(secs => $1)
         and not exists (select from worker_job where worker_job.job = pgboss.job.id)`,
      [UNSAID],
    )
  }

  private async freeIfDead(id: number): Promise<void> {
    const client = await this.app.pool.connect()
    try {
      await client.query('begin')
      const { rows } = await client.query<{ dead: boolean }>(
        'select pg_try_advisory_xact_lock($1, $2) as dead',
        [WORKER_LOCK, id],
      )
      if (rows[0]?.dead) {
        await client.query(`${PUT_BACK} and id in (select job from worker_job where worker = $1)`, [id])
        await client.query('delete from worker_job where worker = $1', [id])
        const { rows: gone } = await client.query<{ holder: string }>(
          'delete from worker where id = $1 returning holder',
          [id],
        )
        // A process that only lost its connection has a number anew, and goes on with what it has in hand.
        if (gone[0] && gone[0].holder !== this.app.holder) await freeHeld(onClient(client), gone[0].holder)
      }
      await client.query('commit')
      client.release()
    } catch (error) {
      client.release(true)
      throw error
    }
  }

  private async comeBack(): Promise<void> {
    while (!this.stopped) {
      await new Promise((resolve) => setTimeout(resolve, AGAIN))
      const back = await this.appear().then(
        () => true,
        () => false,
      )
      if (back) return this.app.log.info('the database is back')
    }
  }

  /** Leaves: nothing is in hand any more. */
  async end(): Promise<void> {
    this.stopped = true
    await this.app.pool.query('delete from worker where id = $1', [this.worker]).catch(() => undefined)
    this.held?.release(true)
    this.held = null
  }
}
