// Looks at what has changed since the last commit: types of the whole, linter and formatter of the changed files, and the unit tests
// beside them. `./brevan check`.
import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { TYPES_COMMAND } from './types-command.ts'

const git = (...args: readonly string[]): readonly string[] =>
  execFileSync('git', [...args], { encoding: 'utf8' })
    .split('\n')
    .filter(Boolean)

const changed = [
  ...new Set([...git('diff', '--name-only', 'HEAD'), ...git('ls-files', '--others', '--exclude-standard')]),
].filter((file) => existsSync(file))

/** `core/a/b.ts` is tested by `test/unit/a/b.test.ts`, what is of another room by `test/unit/<room>/…`. */
const testOf = (file: string): string =>
  file
    .replace(/^core\//, 'test/unit/')
    .replace(/^(contract|server|web|demo)\//, 'test/unit/$1/')
    .replace(/\.tsx?$/, '.test.ts')
const tests = [...new Set([...changed, ...changed.map(testOf)])].filter(
  (file) => /^test\/unit\/.*\.test\.ts$/.test(file) && existsSync(file),
)

const code = changed.filter((file) => /\.(ts|tsx|js)$/.test(file))
const commands: readonly (readonly string[])[] = [
  TYPES_COMMAND,
  ...(code.length ? [['eslint', '--max-warnings', '0', '--no-warn-ignored', ...code]] : []),
  ...(changed.length ? [['prettier', '--check', '--log-level', 'warn', '--ignore-unknown', ...changed]] : []),
  ...(tests.length ? [['mocha', ...tests]] : []),
]
let failed = 0
for (const command of commands) {
  process.stdout.write(`— ${command[0]}${command[0] === 'tsc' ? '' : `: ${command.length - 1} files`}\n`)
  if (spawnSync('npx', ['--no-install', ...command], { stdio: 'inherit' }).status !== 0) failed++
}
process.stdout.write(failed ? `\n${failed} of ${commands.length} failed\n` : '\nAll is well.\n')
process.exitCode = failed ? 1 : 0
