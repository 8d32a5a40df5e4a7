import { readFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { speaks } from '#core/languages/all.ts'
import { isKnownSealer, describeVerdict } from '#core/evidence/verdict.ts'
import { examine } from './seal/examine.ts'
import { anchorsFile, anchorsIn } from './seal/means.ts'

// `brevan verify FILE [--anchor FILE]`: tells of a file whether its seal holds, by whom, and who signed, without server and
// database. Known are the seals of the installation whose data folder is here, and of the certificates that are named.
// Ends with 0: as it was sealed, by one who is known; 1: not sealed, or changed; 2: by an unknown sealer, or nothing to look at.

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { anchor: { type: 'string', multiple: true } },
})
const end = (problem: string): never => {
  process.stderr.write(`verify: ${problem}\n`)
  process.exit(2)
}
const [path] = positionals
if (!path) end('name a file.')
const read = (file: string) =>
  readFile(file).catch((error: unknown) => end(error instanceof Error ? error.message : String(error)))
const anchors = new Set<string>()
for (const file of values.anchor ?? [])
  try {
    for (const each of anchorsIn(await read(file))) anchors.add(each)
  } catch {
    end(`${file} holds no certificate.`)
  }
const data = process.env['BREVAN_DATA']
if (data)
  for (const each of anchorsIn(await readFile(anchorsFile(data), 'utf8').catch(() => ''))) anchors.add(each)
const bytes = await read(path!)
// What the PDF library remarks on broken files is no part of the verdict.
console.warn = () => undefined
const examined = await examine(bytes)
process.stdout.write(`${describeVerdict(examined, speaks('en'), anchors).join('\n')}\n`)
process.exit(examined.kind === 'sealed' && examined.intact ? (isKnownSealer(examined, anchors) ? 0 : 2) : 1)
