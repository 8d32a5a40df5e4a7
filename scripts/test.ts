// Runs tests and adds up their counts: `./brevan test [layer …]`, or `./brevan test FILE … [-g NAME]`. Two go at once, on two cores; what
// failed is told once more at the end.
import { keysOf } from '#core/keys-of.ts'
import { spawn } from 'node:child_process'
import { TYPES_COMMAND } from './types-command.ts'

/** Each layer's commands. */
const LAYERS = {
  outside: [['mocha', 'test/outside/**/*.test.ts']],
  lint: [
    TYPES_COMMAND,
    ['eslint', '.', '--max-warnings', '0'],
    ['prettier', '--check', '--log-level', 'warn', '.'],
  ],
  unit: [['mocha', 'test/unit/**/*.test.ts']],
  // In two parts that take about as long.
  api: [
    ['mocha', 'test/api/[a-p]*.test.ts'],
    ['mocha', 'test/api/[q-z]*.test.ts'],
  ],
  browser: [['mocha', 'test/browser/**/*.test.ts']],
  hostile: [['mocha', 'test/hostile/**/*.test.ts']],
} as const satisfies Record<string, readonly (readonly string[])[]>
type Layer = keyof typeof LAYERS

/** Beside browsers goes what computes alone; then come those that run servers and workers. */
const ALONE: ReadonlySet<string> = new Set<Layer>(['outside', 'lint', 'unit'])
/** How many times as long tests wait where others run beside them, and the milliseconds of one that sets no limit itself. */
const [PATIENCE, LIMIT] = ['3', '360000']

interface Task {
  readonly name: string
  readonly command: readonly string[]
}
interface Result {
  readonly passed: number
  readonly failed: number
  readonly output: string
}

/** What to run: layers by their names, or files with the arguments of the test runner. `./brevan` has looked at them. */
function tasksOf(asked: readonly string[]): readonly Task[] {
  const layers = keysOf(LAYERS)
  const isLayer = (name: string): name is Layer => (layers as string[]).includes(name)
  if (asked.length > 0 && !asked.every(isLayer)) return [{ name: 'mocha', command: ['mocha', ...asked] }]
  return layers
    .filter((layer) => asked.length === 0 || asked.includes(layer))
    .flatMap((layer) => LAYERS[layer].map((command): Task => ({ name: layer, command })))
}

/** Runs one command; its lines come as they are said, behind its name where several run at once. */
function run({ command }: Task, prefix: string): Promise<Result> {
  const limit = command[0] === 'mocha' && tasks.length > 1 ? ['--timeout', LIMIT] : []
  return new Promise((resolve) => {
    const child = spawn('npx', ['--no-install', ...command, ...limit], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { TEST_PATIENCE: tasks.length > 1 ? PATIENCE : '1', ...process.env, FORCE_COLOR: '0' },
    })
    let output = ''
    for (const stream of ['stdout', 'stderr'] as const) {
      let line = ''
      const say = (text: string) => process[stream].write(text)
      child[stream].on('data', (chunk: Buffer) => {
        const text = chunk.toString()
        output += text
        if (!prefix) return say(text)
        const lines = (line + text).split('\n')
        line = lines.pop()!
        return lines.map((each) => say(`${prefix}${each}\n`))
      })
      child[stream].on('end', () => line && say(`${prefix}${line}\n`))
    }
    child.on('close', (code) => resolve({ ...counted(command, code ?? 1, output), output }))
  })
}

function counted(command: readonly string[], code: number, output: string) {
  if (command[0] !== 'mocha') return { passed: code === 0 ? 1 : 0, failed: code === 0 ? 0 : 1 }
  const count = (word: string) => Number(new RegExp(`^\\s*(\\d+) ${word}`, 'm').exec(output)?.[1] ?? 0)
  // One that ended without a count has failed too.
  const failed = count('failing') || (code === 0 ? 0 : 1)
  return { passed: count('passing'), failed }
}

/** What a command printed from its list of failures on, or its last lines where it made no list. */
function whatFailed(output: string): string {
  const list = output.search(/^\s*\d+ failing/m)
  return list >= 0 ? output.slice(list).trimEnd() : output.trimEnd().split('\n').slice(-20).join('\n')
}

const tasks = tasksOf(process.argv.slice(2))
const done: { readonly task: Task; readonly result: Result; readonly seconds: number }[] = []
const width = Math.max(...tasks.map(({ name }) => name.length))

/** Does tasks one after the other; several lanes may take them from one list. */
async function work(lane: Task[]): Promise<void> {
  for (let task = lane.shift(); task; task = lane.shift()) {
    const began = Date.now()
    const result = await run(task, tasks.length > 1 ? `${task.name.padEnd(width)} │ ` : '')
    done.push({ task, result, seconds: Math.round((Date.now() - began) / 1000) })
  }
}
const [alone, browsers, servers] = [
  tasks.filter(({ name }) => ALONE.has(name)),
  tasks.filter(({ name }) => name === 'browser'),
  tasks.filter(({ name }) => name !== 'browser' && !ALONE.has(name)),
]
await Promise.all([work(alone), work(browsers)])
await Promise.all([work(servers), work(servers)])

for (const { task, result } of done)
  if (result.failed > 0)
    process.stdout.write(`\n— ${task.name}: ${task.command[0]} failed\n${whatFailed(result.output)}\n`)
if (tasks.length > 1) process.stdout.write('\n')
for (const { task, result, seconds } of tasks.length > 1 ? done : [])
  process.stdout.write(
    `${task.name.padEnd(width)} ${task.command[0]!.padEnd(8)} ${String(result.passed).padStart(5)} passed, ${result.failed} failed, ${seconds} s\n`,
  )
const sum = (of: 'passed' | 'failed') => done.reduce((total, { result }) => total + result[of], 0)
process.stdout.write(`\n${sum('passed')} passed, ${sum('failed')} failed\n`)
process.exitCode = sum('failed') || sum('passed') === 0 ? 1 : 0
