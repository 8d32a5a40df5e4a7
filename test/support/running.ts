import { cp, mkdtemp, rm } from 'node:fs/promises'
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
import { freshDatabase, type FreshDatabase } from './database.ts'
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

type DemoOptions = NonNullable<Parameters<typeof loadDemo>[1]>

/** The demo as it stands once it is loaded, to begin copies from: a database that nobody is connected to, and the files. */
interface Loaded {
  readonly database: string
  readonly folder: string
  drop(): Promise<void>
}

const loadedDemos = new Map<string, Promise<Loaded>>()

// Of the whole process: a hook outside of every group. What measures has none.
const atEnd = (globalThis as { after?: (act: () => Promise<void>) => void }).after
atEnd?.(async () => {
  for (const loaded of loadedDemos.values()) await loaded.then(({ drop }) => drop()).catch(() => undefined)
})

/** Loads the demo once for all tests of this process that ask for the same of it. */
function loadedDemo(options: DemoOptions): Promise<Loaded> {
  const key = JSON.stringify(options)
  const known = loadedDemos.get(key)
  if (known) return known
  const loading = (async () => {
    const database = await freshDatabase(`demo_${loadedDemos.size}`)
    const folder = await mkdtemp(join(tmpdir(), 'brevan-demo-'))
    const app = await makeApp('worker', testSettings(database, folder, await freePort(), await freePort()))
    hearFaults(app)
    await loadDemo(app, options)
    await app.pages.stop()
    await app.pool.end()
    return {
      database: database.name,
      folder,
      drop: async () => {
        await database.drop()
        await rm(folder, { recursive: true, force: true })
      },
    }
  })()
  loadedDemos.set(key, loading)
  return loading
}

const testSettings = (
  database: Pick<FreshDatabase, 'url' | 'ownerUrl'>,
  folder: string,
  port: number,
  smtpPort: number,
  more: Readonly<Record<string, string>> = {},
) =>
  readSettings({
    DATABASE_URL: database.url,
    DATABASE_OWNER_URL: database.ownerUrl,
    BREVAN_PORT: String(port),
    BREVAN_SMTP_PORT: String(smtpPort),
    BREVAN_DATA: folder,
    BREVAN_DEMO: 'yes',
    LOG_LEVEL: process.env['TEST_LOG'] ?? 'silent',
    ...more,
  })

/** The whole application in this process, on a database of its own with the demo in it, if not said otherwise: web, worker and post room. */
export async function startApp(
  name: string,
  options: { sheet?: boolean; worker?: boolean; demo?: boolean; past?: number; connections?: number } = {},
): Promise<Running> {
  const { demo = true, sheet = true, past, connections } = options
  const from = demo ? await loadedDemo({ sheet, ...(past ? { past } : {}) }) : null
  const database = await freshDatabase(name, from?.database)
  const folder = await mkdtemp(join(tmpdir(), 'brevan-test-'))
  if (from) await cp(from.folder, folder, { recursive: true })
  const [port, smtpPort] = [await freePort(), await freePort()]
  const app = await makeApp(
    'worker',
    testSettings(database, folder, port, smtpPort, {
      ...(connections ? { BREVAN_CONNECTIONS: String(connections) } : {}),
      BREVAN_DEMO: demo ? 'yes' : 'no',
    }),
  )
  hearFaults(app)
  // Rights on the database itself are not copied with it.
  await migrate(app.settings)
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
