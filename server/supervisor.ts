// Keeps one process running: `node supervisor.js <name of the process>`. One that ends by itself is started again, at once
// the first time and later the longer the more often; what for is told in the log. Ends with the process on SIGTERM.
import { type ChildProcess, spawn } from 'node:child_process'
import { join } from 'node:path'
import { pino } from 'pino'
import { roomFile } from './ground/room.ts'

const name = process.argv[2] ?? 'web'
const log = pino({ base: { process: 'supervisor', of: name } })

/** Megabytes of heap of a process; its threads have their own. */
const HEAP = 256
/** Milliseconds: before the second start in a row, and before any; a process that lived so long is well again. */
const [FIRST, MOST, WELL] = [250, 10_000, 60_000]
/** A setting is wrong: to start again would change nothing. */
const WRONG_SETTING = 98

let child: ChildProcess | null = null
let stopping = false
let pause = 0

function start(): void {
  const began = Date.now()
  child = spawn(
    process.execPath,
    [`--max-old-space-size=${HEAP}`, join(roomFile('dist/server'), `${name}.js`)],
    {
      stdio: 'inherit',
    },
  )
  child.once('exit', (code, signal) => {
    child = null
    if (stopping || code === WRONG_SETTING) process.exit(code ?? 0)
    pause = Date.now() - began > WELL ? 0 : Math.min(MOST, Math.max(FIRST, pause * 2))
    log.error({ code, signal, restartIn: pause }, 'the process ended and is started again')
    setTimeout(start, pause)
  })
}

for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    stopping = true
    if (child) child.kill(signal)
    else process.exit(0)
  })
start()
