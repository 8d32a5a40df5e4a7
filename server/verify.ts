import { readFile } from 'node:fs/promises'
import { speaks } from '#core/languages/all.ts'
import { verdictSaid } from '#core/evidence/verdict.ts'
import { examine } from './seal/examine.ts'

// `brevan verify FILE`: tells of a file whether its seal holds and who signed, without server and database.

const [path] = process.argv.slice(2)
if (!path) {
  process.stderr.write('verify: name a file.\n')
  process.exit(2)
}
const bytes = await readFile(path).catch((error: unknown) => {
  process.stderr.write(`verify: ${error instanceof Error ? error.message : String(error)}\n`)
  process.exit(2)
})
// What the PDF library remarks on broken files is no part of the verdict.
console.warn = () => undefined
const examined = await examine(bytes)
process.stdout.write(`${verdictSaid(examined, speaks('en')).join('\n')}\n`)
process.exit(examined.kind === 'sealed' && examined.intact ? 0 : 1)
