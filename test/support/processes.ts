import { type ChildProcess, execFile, spawn } from 'node:child_process'
import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { eventually } from './client.ts'
import { freshDatabase } from './database.ts'
import { freePort } from './running.ts'

const run = promisify(execFile)

/** The built application as two processes of its own, as it is started for people, on a database with the demo in it. */
export interface Processes {
  readonly url: string
  readonly databaseUrl: string
  readonly ownerUrl: string
  /** How either process ended, were it to. */
  readonly ends: string[]
  /** Most memory that each process has had, in megabytes (VmHWM, proc(5)). */
  memory(): Promise<{ web: number; worker: number }>
  /**
   * Milliseconds of processor time that the server's one thread for requests takes until it says that it is well: what it does
   * first is what holds everybody up. By processor time (in hundredths of a second) a busy machine changes nothing.
   */
  heldUp(): Promise<number>
  stop(): Promise<void>
}

/** Waits for a process's end, even where that has been already. */
export const ended = (child: ChildProcess): Promise<unknown> =>
  child.exitCode === null && child.signalCode === null
    ? new Promise((resolve) => child.once('exit', resolve))
    : Promise.resolve()

/** Whether the server at an address is there and well. */
export const isUp = (url: string): Promise<boolean> =>
  fetch(`${url}/api/health`).then(
    ({ ok }) => ok,
    () => false,
  )

export async function startProcesses(name: string): Promise<Processes> {
  const database = await freshDatabase(name)
  const folder = await mkdtemp(join(tmpdir(), 'brevan-processes-'))
  const [port, smtpPort] = [await freePort(), await freePort()]
  const env = {
    ...process.env,
    DATABASE_URL: database.url,
    BREVAN_DATA: folder,
    BREVAN_PORT: String(port),
    BREVAN_SMTP_PORT: String(smtpPort),
    BREVAN_DEMO: 'yes',
    BREVAN_DEMO_PAST: 'no',
    LOG_LEVEL: 'error',
    MALLOC_ARENA_MAX: '2',
  }
  await run('node', ['dist/server/migrate.js'], { env: { ...env, DATABASE_OWNER_URL: database.ownerUrl } })
  await run('node', ['dist/server/demo.js'], { env })
  const ends: string[] = []
  const said: string[] = []
  let stopping = false
  const start = (which: 'web' | 'worker'): ChildProcess => {
    const child = spawn('node', ['--max-old-space-size=256', `dist/server/${which}.js`], {
      env,
      stdio: ['ignore', 'pipe', 'pipe'],
    })
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (chunk: Buffer) => said.push(chunk.toString().slice(0, 2000)))
    child.once('exit', (code, signal) => {
      if (!stopping) ends.push(`${which} ended: ${signal ?? code}, after: ${said.slice(-3).join('')}`)
    })
    return child
  }
  const children = { web: start('web'), worker: start('worker') }
  const url = `http://127.0.0.1:${port}`
  const peak = async (child: ChildProcess) => {
    const status = await readFile(`/proc/${child.pid}/status`, 'utf8').catch(() => '')
    return Math.round(Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024)
  }
  /** Of a process's first thread: Node's loop runs there. User time in hundredths of a second (stat, proc(5)), behind the name. */
  const computed = async (child: ChildProcess) => {
    const stat = await readFile(`/proc/${child.pid}/task/${child.pid}/stat`, 'utf8').catch(() => '')
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ')
    return 10 * Number(fields[11] ?? 0)
  }
  const stop = async () => {
    stopping = true
    for (const child of Object.values(children)) {
      child.kill('SIGTERM')
      await ended(child)
    }
    await database.drop()
    await rm(folder, { recursive: true, force: true })
  }
  await eventually(() => isUp(url), 'the server', 60).catch(async (error: unknown) => {
    await stop()
    throw new Error(`${String(error)} ${[...ends, ...said].slice(-5).join(' ')}`)
  })
  return {
    url,
    databaseUrl: database.url,
    ownerUrl: database.ownerUrl,
    ends,
    memory: async () => ({ web: await peak(children.web), worker: await peak(children.worker) }),
    async heldUp() {
      const before = await computed(children.web)
      if (!(await isUp(url))) throw new Error('The server is not well.')
      return (await computed(children.web)) - before
    },
    stop,
  }
}
