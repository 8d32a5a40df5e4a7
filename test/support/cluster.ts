import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { freePort } from './running.ts'

/** A PostgreSQL server of its own, for tests that kill it. Runs as the postgres user where this process is root. */
export interface Cluster {
  readonly url: string
  /** Ends the server and all its processes at once, as a power cut of the program would. */
  kill(): void
  /** Tries for a while: what is left of a killed server holds its memory until it notices. */
  start(): Promise<void>
  remove(): Promise<void>
}

const TRIES = 30

const root = process.getuid?.() === 0
const version = readdirSync('/usr/lib/postgresql').sort((a, b) => Number(b) - Number(a))[0]!

function command(name: string, ...args: readonly string[]): void {
  const program = `/usr/lib/postgresql/${version}/bin/${name}`
  const [file, all] = root
    ? (['runuser', ['-u', 'postgres', '--', program, ...args]] as const)
    : ([program, args] as const)
  execFileSync(file, [...all], { stdio: 'ignore', cwd: '/' })
}

/** Processes that one began, by the kernel's table (proc(5): the parent is the second field after the name). */
function childrenOf(parent: number): readonly number[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .filter((pid) => {
      try {
        const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
          .replace(/^.*\) /, '')
          .split(' ')
        return Number(fields[1]) === parent
      } catch {
        return false
      }
    })
    .map(Number)
}

export async function ownCluster(): Promise<Cluster> {
  const folder = await mkdtemp('/var/tmp/brevan-cluster-')
  if (root) execFileSync('chown', ['postgres', folder])
  const data = `${folder}/data`
  const port = await freePort()
  command('initdb', '-D', data, '-U', 'brevan', '-E', 'UTF8', '--locale=C.UTF-8', '-A', 'trust')
  const startOnce = () =>
    command(
      'pg_ctl',
      '-D',
      data,
      '-w',
      '-t',
      '60',
      '-l',
      `${folder}/log`,
      '-o',
      `-p ${port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c fsync=off`,
      'start',
    )
  const start = async () => {
    for (let left = TRIES; ; left--) {
      try {
        return startOnce()
      } catch (error) {
        if (left === 0) throw error
        await new Promise((resolve) => setTimeout(resolve, 500))
      }
    }
  }
  await start()
  return {
    url: `postgres://brevan@127.0.0.1:${port}/postgres`,
    start,
    kill() {
      const postmaster = Number(readFileSync(`${data}/postmaster.pid`, 'utf8').split('\n')[0])
      for (const pid of [postmaster, ...childrenOf(postmaster)])
        try {
          process.kill(pid, 'SIGKILL')
        } catch {
          // Children end with their parent.
        }
    },
    async remove() {
      try {
        command('pg_ctl', '-D', data, '-m', 'immediate', '-w', 'stop')
      } catch {
        // Not running any more.
      }
      await rm(folder, { recursive: true, force: true })
    },
  }
}
