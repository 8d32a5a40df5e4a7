import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtemp, rm } from 'node:fs/promises'
import { createConnection, createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { roomFile } from '#server/ground/room.ts'

/** A machine of its own as far as a worker can tell: its own network with nothing but loopback, and its own data folder. */
export interface Host {
  /** Bytes that have gone out of it to a port. */
  sentTo(port: number): number
  /** Ends everything on it at once, as a power cut does. */
  kill(): Promise<void>
  stop(): Promise<void>
}

/** Starts a worker on a host of its own, which reaches these ports of ours and nothing else. */
export async function startHost(env: NodeJS.ProcessEnv, ports: readonly number[]): Promise<Host> {
  const folder = await mkdtemp(join(tmpdir(), 'brevan-host-'))
  const sent = new Map(ports.map((port) => [port, 0]))
  const relays = await Promise.all(
    ports.map(async (port) => {
      const path = join(folder, `${port}.sock`)
      const relay = createServer((inside) => {
        const outside = createConnection(port, '127.0.0.1')
        inside.on('data', (bytes) => sent.set(port, sent.get(port)! + bytes.length))
        for (const [from, to] of [
          [inside, outside],
          [outside, inside],
        ] as const) {
          from.on('error', () => to.destroy())
          from.on('close', () => to.destroy())
          from.pipe(to)
        }
      })
      await new Promise<void>((resolve) => relay.listen(path, resolve))
      return { relay, pair: `${port}=${path}` }
    }),
  )
  const script =
    'PATH=$PATH:/usr/sbin; ip link set lo up && node "$RELAY" $PAIRS & sleep 1; exec node --max-old-space-size=256 dist/server/worker.js'
  const child: ChildProcess = spawn(
    'unshare',
    [...(process.getuid?.() === 0 ? [] : ['--map-root-user']), '--net', 'sh', '-c', script],
    {
      stdio: ['ignore', 'ignore', 'inherit'],
      detached: true,
      env: {
        ...env,
        BREVAN_DATA: join(folder, 'data'),
        RELAY: roomFile('test/support/relay.mjs'),
        PAIRS: relays.map(({ pair }) => pair).join(' '),
      },
    },
  )
  const ended = new Promise((resolve) => child.once('exit', resolve))
  const kill = async () => {
    // The relay goes with the worker: both are of its group.
    if (child.exitCode === null && child.signalCode === null) process.kill(-child.pid!, 'SIGKILL')
    await ended
  }
  return {
    sentTo: (port) => sent.get(port) ?? 0,
    kill,
    async stop() {
      await kill()
      for (const { relay } of relays) relay.close()
      await rm(folder, { recursive: true, force: true })
    },
  }
}
