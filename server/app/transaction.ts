import type { PoolClient } from 'pg'
import type { App, Work } from '#server/app/app.ts'
import { writeAct } from '#server/app/installation-trail.ts'
import { onClient } from '#server/db/connect.ts'
import { againOnConflict, insideOf } from '#server/db/open-transaction.ts'
import { FileRecords } from '#server/files/store.ts'

/**
 * Runs `act` in one transaction; what it throws rolls everything back, jobs and what the trail would say included. Where others
 * were in its way (a deadlock, a serialization failure), it is run again from the beginning: it may change nothing but the
 * database. `act` has what there is inside of it from its parameter alone: the linter refuses it the app.
 */
export const transaction = <T>(app: App, act: (work: Work) => Promise<T>): Promise<T> =>
  againOnConflict(
    () => once(app, act),
    (tries, error) => app.log.warn({ err: error, tries }, 'a transaction met a conflict and is tried again'),
  )

async function once<T>(app: App, act: (work: Work) => Promise<T>): Promise<T> {
  const client: PoolClient = await app.pool.connect()
  let broken: Error | undefined
  let unwritten = () => undefined as void
  try {
    return await insideOf(app.pool, client, async () => {
      await client.query('begin')
      const db = onClient(client)
      const { settings, holder, secrets, log, now } = app
      const result = await act({
        settings,
        holder,
        secrets,
        log,
        now,
        db,
        files: new FileRecords(db, now),
        enqueue: (name, data) => app.queue.send(name, data, client),
      })
      unwritten = await writeAct(db)
      await client.query('commit')
      return result
    })
  } catch (error) {
    unwritten()
    await client.query('rollback').catch((failure: Error) => (broken = failure))
    throw error
  } finally {
    client.release(broken)
  }
}
