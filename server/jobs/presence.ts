import type { PoolClient } from 'pg'
import type { App } from '#server/app.ts'

/** Held by every worker, shared; whoever gets it alone knows that no other worker lives. */
const WORKERS_LOCK = 727002
const AGAIN = 1000

/**
 * Keeps a worker known to the database for as long as it lives. Whenever it comes to be known (at its start, and again
 * after the database was away) and no other is, `onAlone` takes up what dead workers left behind. Returns what ends it.
 */
export async function keepPresence(
  app: App,
  onAlone: (client: PoolClient) => Promise<void>,
): Promise<() => void> {
  let stopped = false
  let held: PoolClient | null = null
  const appear = async (): Promise<void> => {
    const client = await app.pool.connect()
    try {
      const { rows } = await client.query<{ alone: boolean }>('select pg_try_advisory_lock($1) as alone', [
        WORKERS_LOCK,
      ])
      if (rows[0]?.alone) await onAlone(client)
      await client.query('select pg_advisory_lock_shared($1)', [WORKERS_LOCK])
      if (rows[0]?.alone) await client.query('select pg_advisory_unlock($1)', [WORKERS_LOCK])
    } catch (error) {
      client.release(true)
      throw error
    }
    held = client
    client.once('end', () => {
      if (stopped) return
      held = null
      client.release(true)
      app.log.warn('the database went away')
      void comeBack()
    })
  }
  const comeBack = async (): Promise<void> => {
    while (!stopped) {
      await new Promise((resolve) => setTimeout(resolve, AGAIN))
      const back = await appear().then(
        () => true,
        () => false,
      )
      if (back) return app.log.info('the database is back')
    }
  }
  await appear()
  return () => {
    stopped = true
    held?.release(true)
  }
}
