import { randomUUID } from 'node:crypto'
import { mkdir } from 'node:fs/promises'
import { pino } from 'pino'
import type { App } from './app/app.ts'
import { PagePool } from './worker-pools/pool.ts'
import { connect } from './db/connect.ts'
import { openStorage } from './files/open-storage.ts'
import { FileStore } from './files/store.ts'
import { JOBS } from './jobs/jobs.ts'
import { Queue } from './queue/queue.ts'
import { Secrets } from './ground/secrets.ts'
import { readSettings, type Settings } from './ground/settings.ts'

/** Puts the parts together; the caller starts what it needs of them. */
export async function makeApp(role: 'web' | 'worker', settings: Settings = readSettings()): Promise<App> {
  const log = pino({ level: settings.logLevel, base: { process: role } })
  const { pool, db } = connect(settings.databaseUrl, settings.connections, (tries, error) =>
    log.warn({ err: error, tries }, 'a statement met a conflict and is said again'),
  )
  pool.on('error', (error) => log.error({ err: error }, 'database connection lost'))
  await mkdir(settings.dataFolder, { recursive: true })
  const now = settings.ahead ? () => new Date(Date.now() + settings.ahead) : () => new Date()
  return {
    settings,
    pool,
    db,
    holder: randomUUID(),
    secrets:
      settings.secretKey === null ? Secrets.ofFile(settings.secretKeys) : Secrets.ofKey(settings.secretKey),
    log,
    files: new FileStore(await openStorage(settings), db, now),
    pages: new PagePool(role === 'web' ? 1 : settings.threads),
    queue: new Queue(settings.databaseUrl, log, role === 'worker', JOBS),
    now,
  }
}

/** Ends the process in order on the usual signals, once. */
export function onStop(app: App, stop: () => Promise<void>): void {
  let stopping = false
  const end = (signal: string) => {
    if (stopping) return
    stopping = true
    app.log.info({ signal }, 'stopping')
    setTimeout(() => process.exit(1), 10_000).unref()
    void stop().then(
      () => process.exit(0),
      (error: unknown) => {
        app.log.error({ err: error }, 'stopping')
        process.exit(1)
      },
    )
  }
  process.on('SIGTERM', () => end('SIGTERM'))
  process.on('SIGINT', () => end('SIGINT'))
}
