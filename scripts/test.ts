// Runs the layers of tests one after another and adds up their counts: `./brevan test [layer …]`.
import { spawn } from 'node:child_process'

const LAYERS = ['lint', 'unit', 'outside', 'api', 'hostile', 'browser'] as const
type Layer = (typeof LAYERS)[number]

const commands: Record<Layer, readonly (readonly string[])[]> = {
  lint: [
    ['tsc', '-p', '.'],
    ['eslint', '.', '--max-warnings', '0'],
    ['prettier', '--check', '--log-level', 'warn', '.'],
  ],
  unit: [['mocha', 'test/unit/**/*.test.ts']],
  outside: [['mocha', 'test/outside/**/*.test.ts']],
  api: [['mocha', 'test/api/**/*.test.ts']],
  hostile: [['mocha', 'test/hostile/**/*.test.ts']],
  browser: [['mocha', 'test/browser/**/*.test.ts']],
}

const asked = process.argv.slice(2) as Layer[]
const wrong = asked.find((layer) => !LAYERS.includes(layer))
if (wrong) {
  process.stderr.write(`There is no layer “${wrong}”: ${LAYERS.join(', ')}.\n`)
  process.exit(2)
}

let [passed, failed] = [0, 0]
const failures: string[] = []
for (const layer of asked.length ? asked : LAYERS) {
  for (const command of commands[layer]) {
    process.stdout.write(`\n— ${layer}: ${command[0]}\n`)
    const { code, output } = await run(command)
    const count = (word: string) => Number(new RegExp(`^\\s*(\\d+) ${word}`, 'm').exec(output)?.[1] ?? 0)
    if (command[0] === 'mocha') {
      passed += count('passing')
      failed += count('failing')
      if (code !== 0 && count('failing') === 0) failed++
    } else if (code === 0) passed++
    else failed++
    if (code !== 0) failures.push(`— ${layer}: ${command[0]}\n${whatFailed(output)}`)
  }
}
// Told once more at the end: of a long run often only its last lines are kept.
for (const failure of failures) process.stdout.write(`\nFailed ${failure}\n`)
process.stdout.write(`\n${passed} passed, ${failed} failed\n`)
process.exitCode = failed || passed === 0 ? 1 : 0

/** What a command printed from its list of failures on, or its last lines where it made no list. */
function whatFailed(output: string): string {
  const list = output.search(/^\s*\d+ failing/m)
  return list >= 0 ? output.slice(list).trimEnd() : output.trimEnd().split('\n').slice(-20).join('\n')
}

function run(command: readonly string[]): Promise<{ code: number; output: string }> {
  return new Promise((resolve) => {
    const child = spawn('npx', ['--no-install', ...command], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, FORCE_COLOR: '0' },
    })
    let output = ''
    for (const stream of ['stdout', 'stderr'] as const)
      child[stream].on('data', (chunk: Buffer) => {
        output += chunk.toString()
        process[stream].write(chunk)
      })
    child.on('close', (code) => resolve({ code: code ?? 1, output }))
  })
}
