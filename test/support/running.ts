import { mkdtemp, rm } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { loadDemo } from '#demo/load.ts'
import type { App } from '#server/app/app.ts'
import { migrate } from '#server/db/connect.ts'
import { takeReturned } from '#server/services/agreements/returned.ts'
import { httpApp } from '#server/http/app.ts'
import { startWork } from '#server/jobs/work.ts'
import type { JobName } from '#server/queue/job-data.ts'
import { closeMailer } from '#server/post/mailer.ts'
import { openPostRoom } from '#server/post/post-room.ts'
import { readSettings } from '#server/ground/settings.ts'
import { makeApp } from '#server/start.ts'
import { freshDatabase } from './database.ts'
import { hearFaults } from './faults.ts'

export interface Running {
  readonly app: App
  /** Runs SQL as the owner of the tables, behind the app's back. */
  owner(sql: string, values?: readonly unknown[]): Promise<void>
  readonly url: string
  stop(): Promise<void>
}

/** Whether no worker has a job of this name in hand. */
export async function idle(app: App, job: JobName): Promise<boolean> {
  const { rows } = await app.pool.query(`select from pgboss.job where name = $1 and state = 'active'`, [job])
  return rows.length === 0
}

/** Ports below those that the system gives to whoever connects somewhere (32768 ff., ip(7)): nobody gets one meanwhile. */
const [FIRST_PORT, LAST_PORT] = [25_000, 32_000]

/** A port on loopback that nobody listens at. */
export async function freePort(): Promise<number> {
  for (;;) {
    const port = FIRST_PORT + Math.floor(Math.random() * (LAST_PORT - FIRST_PORT))
    const server = createServer()
    const free = await new Promise<boolean>((resolve) => {
      server.once('error', () => resolve(false))
      server.listen(port, '127.0.0.1', () => resolve(true))
    })
    if (!free) continue
    await new Promise((resolve) => server.close(resolve))
    return port
  }
}

/** The whole application in this process, on a database of its own with the demo in it, if not said otherwise: web, worker and post room. */
export async function startApp(
  name: string,
  options: { sheet?: boolean; worker?: boolean; demo?: boolean; past?: number; connections?: number } = {},
): Promise<Running> {
  const database = await freshDatabase(name)
  const folder = await mkdtemp(join(tmpdir(), 'brevan-test-'))
  const [port, smtpPort] = [await freePort(), await freePort()]
  const app = await makeApp(
    'worker',
    readSettings({
      DATABASE_URL: database.url,
      DATABASE_OWNER_URL: database.ownerUrl,
      BREVAN_PORT: String(port),
      BREVAN_SMTP_PORT: String(smtpPort),
      BREVAN_DATA: folder,
      ...(options.connections ? { BREVAN_CONNECTIONS: String(options.connections) } : {}),
      BREVAN_DEMO: options.demo === false ? 'no' : 'yes',
      LOG_LEVEL: process.env['TEST_LOG'] ?? 'silent',
    }),
  )
  hearFaults(app)
  if (options.demo === false) await migrate(app.settings)
  else await loadDemo(app, { sheet: options.sheet ?? true, ...(options.past ? { past: options.past } : {}) })
  await app.queue.start()
  const stopWork = options.worker === false ? () => app.queue.stop() : await startWork(app)
  const room = await openPostRoom(app, smtpPort, (token, raw) => takeReturned(app, token, raw))
  const server = httpApp(app).listen(port, '127.0.0.1')
  // As the web server itself.
  server.keepAliveTimeout = 75_000
  await new Promise((resolve) => server.once('listening', resolve))
  const owner = new pg.Pool({ connectionString: database.ownerUrl, max: 1 })
  owner.on('error', () => undefined)
  return {
    app,
    owner: async (sql, values = []) => void (await owner.query(sql, [...values])),
    url: app.settings.publicUrl,
    async stop() {
      server.closeAllConnections()
      await new Promise((resolve) => server.close(resolve))
      await stopWork()
      closeMailer()
      await room.close()
      await app.pages.stop()
      await app.pool.end()
      await owner.end()
      await database.drop()
      await rm(folder, { recursive: true, force: true })
    },
  }
}
