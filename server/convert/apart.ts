import { spawn } from 'node:child_process'
import type { ChildProcess } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import { roomFile } from '#server/ground/room.ts'

/** What a program that works on files from outside may use. */
export interface ApartLimits {
  readonly seconds: number
  /** Seconds that it may say nothing at all: a program tells on its error output that it goes on. None: as long as it may run. */
  readonly silent?: number
  /** Megabytes of memory that it may hold at once. */
  readonly memory: number
  /** Bytes that it may answer. */
  readonly answer: number
}

/** Milliseconds between two looks at how much memory a program holds. */
const LOOK = 150
const PAGE = 4096

/**
 * The built program beside a built server; from source (tests, development) the source, through the loader.
 * `source` is its path from the installation's root, without its ending.
 */
const programOf = (source: string): readonly string[] =>
  import.meta.url.includes('/dist/server/')
    ? [roomFile(`dist/server/${source.split('/').at(-1)!}.js`)]
    : ['--import', 'tsx', roomFile(`${source}.ts`)]

/**
 * Gives bytes to one of our programs in a process of its own, and answers what it says. It alone ends where a file brings it
 * down, takes too long or needs too much: the answer is what it had said until then.
 */
export function apart(source: string, bytes: Uint8Array, limits: ApartLimits): Promise<Buffer> {
  return new Promise((resolve, reject) => {
    const heap = Math.round(limits.memory * 0.75)
    const process_ = spawn(process.execPath, [`--max-old-space-size=${heap}`, ...programOf(source)], {
      stdio: ['pipe', 'pipe', 'pipe'],
      // It needs nothing of what the server knows.
      env: { PATH: process.env['PATH'] },
      cwd: roomFile('.'),
    })
    const stop = bounded(process_, limits)
    const silent = (limits.silent ?? limits.seconds) * 1000
    let quiet = setTimeout(() => process_.kill('SIGKILL'), silent)
    const heard = () => {
      clearTimeout(quiet)
      quiet = setTimeout(() => process_.kill('SIGKILL'), silent)
    }
    const end = () => (stop(), clearTimeout(quiet))
    process_.stderr.on('data', heard)
    const parts: Buffer[] = []
    let size = 0
    process_.stdout.on('data', (part: Buffer) => {
      size += part.length
      if (size > limits.answer) process_.kill('SIGKILL')
      else parts.push(part)
    })
    process_.on('error', (error) => (end(), reject(error)))
    process_.on('close', () => (end(), resolve(Buffer.concat(parts))))
    // One that has ended before it read everything has told why, or not.
    process_.stdin.on('error', () => undefined)
    process_.stdin.end(bytes)
  })
}

/** Ends a process that takes longer or holds more memory than it may; answers how to stop watching. */
export function bounded(
  child: ChildProcess,
  { seconds, memory }: Pick<ApartLimits, 'seconds' | 'memory'>,
  end: () => void = () => void child.kill('SIGKILL'),
): () => void {
  const overdue = setTimeout(end, seconds * 1000)
  const look = setInterval(() => {
    void heldBy(child.pid).then((bytes) => {
      if (bytes > memory * 1_000_000) end()
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
