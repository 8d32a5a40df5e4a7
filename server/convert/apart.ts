import { spawn } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import { roomFile } from '#server/ground/room.ts'

/** What a program that works on files from outside may use. */
export interface ApartLimits {
  readonly seconds: number
  /** Seconds that it may say nothing at all: a program tells on its error output that it goes on. None: as long as it may run. */
  readonly silent?: number
  /** Megabytes of heap; and of memory that it may hold at once, pictures and all. None: what its heap and its time leave it. */
  readonly heap: number
  readonly memory?: number
  /** Bytes that it may answer. */
  readonly answer: number
}

/** Characters of its error output that are looked at for why it did not start. */
const SAID = 2000
const UNSTARTED = /ERR_MODULE_NOT_FOUND|MODULE_NOT_FOUND|does not provide an export named/

/** Milliseconds between two looks at how much memory a program holds. */
const LOOK = 150
/** Bytes of a page of memory, which proc(5) counts in. */
export const PAGE = 4096

/**
 * The built program beside a built server, and where the tests say that what is built is what they test; else the source,
 * through the loader, which takes two seconds more. `source` is its path from the installation's root, without its ending.
 */
const programOf = (source: string): readonly string[] =>
  import.meta.url.includes('/dist/server/') || process.env['BREVAN_PROGRAMS'] === 'built'
    ? [roomFile(`dist/server/${source.split('/').at(-1)!}.js`)]
    : ['--import', 'tsx', roomFile(`${source}.ts`)]

/**
 * Gives bytes to one of our programs in a process of its own, and answers what it says. It alone ends where a file brings it
 * down, takes too long or needs too much: the answer is what it had said until then.
 */
export function apart(source: string, bytes: Uint8Array, limits: ApartLimits): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    const program = programOf(source)
    const child = spawn(process.execPath, [`--max-old-space-size=${limits.heap}`, ...program], {
      stdio: 'pipe',
      // It needs nothing of what the server knows.
      env: { PATH: process.env['PATH'] },
      cwd: roomFile('.'),
    })
    const kill = () => void child.kill('SIGKILL')
    const { seconds, silent = seconds, memory = Infinity } = limits
    const stop = watched(seconds, async () => (await heldBy(child.pid)) > memory * 1_000_000, kill)
    let quiet = setTimeout(kill, silent * 1000)
    let said = ''
    child.stderr.on('data', (part: Buffer) => {
      said = (said + part.toString()).slice(-SAID)
      clearTimeout(quiet)
      quiet = setTimeout(kill, silent * 1000)
    })
    const end = () => (stop(), clearTimeout(quiet))
    const parts: Buffer[] = []
    let size = 0
    child.stdout.on('data', (part: Buffer) => {
      size += part.length
      if (size > limits.answer) kill()
      else parts.push(part)
    })
    child.on('error', (error) => (end(), reject(error)))
    child.on('close', () => {
      end()
      // The program is at fault then, not the file: it is not built, or not as the server beside it is.
      if (UNSTARTED.test(said)) reject(new Error(`${program.at(-1)} did not start: ${said}`))
      else resolve(Buffer.concat(parts))
    })
    // One that has ended before it read everything has told why, or not.
    child.stdin.on('error', () => undefined)
    child.stdin.end(bytes)
  })
}

/** Ends what takes longer than its time, or is found to hold too much; answers how to stop watching. */
export function watched(
  seconds: number,
  tooMuch: () => Promise<boolean>,
  end: (why: 'time' | 'room') => void,
): () => void {
  const overdue = setTimeout(() => end('time'), seconds * 1000)
  const look = setInterval(() => {
    void tooMuch().then((found) => {
      if (found) end('room')
    })
  }, LOOK)
  return () => {
    clearTimeout(overdue)
    clearInterval(look)
  }
}

/** Bytes of memory that a process holds (proc(5)); 0 where that is not told. */
const heldBy = async (pid: number | undefined): Promise<number> => {
  if (pid === undefined) return 0
  const told = await readFile(`/proc/${pid}/statm`, 'utf8').catch(() => '')
  return Number(told.split(' ')[1] ?? 0) * PAGE
}
