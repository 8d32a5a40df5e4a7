import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { NodeCompiler } from '@myriaddreamin/typst-ts-node-compiler'
import type { FinishedDocument } from '#core/merge/finished.ts'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { EvidenceData } from './evidence.ts'
import type { StampData } from './stamps.ts'
import { roomFile } from '#server/files/room.ts'

export interface Composed {
  readonly pdf: Uint8Array
  readonly pages: number
  readonly blanks: readonly PlacedBlank[]
}

const require = createRequire(import.meta.url)

const face = (family: string, style: string, file: string) =>
  require.resolve(`@expo-google-fonts/${family}/${style}/${file}.ttf`)

/** TTF files shipped by npm packages; the engine finds no other fonts. */
export const fontFiles = [
  face('source-serif-4', '400Regular', 'SourceSerif4_400Regular'),
  face('source-serif-4', '400Regular_Italic', 'SourceSerif4_400Regular_Italic'),
  face('source-serif-4', '600SemiBold', 'SourceSerif4_600SemiBold'),
  face('source-serif-4', '700Bold', 'SourceSerif4_700Bold'),
  face('source-serif-4', '700Bold_Italic', 'SourceSerif4_700Bold_Italic'),
  face('source-sans-3', '400Regular', 'SourceSans3_400Regular'),
  face('source-sans-3', '600SemiBold', 'SourceSans3_600SemiBold'),
  face('caveat', '600SemiBold', 'Caveat_600SemiBold'),
] as const

/**
 * Every so many compilations the cache drops what none of the last ones used. What successive documents share stays;
 * what only one of them had goes soon: kept longer, it costs some 5 MB a document.
 */
const EVICT_EVERY = 4

/**
 * Documents after which a thread takes a new compiler. The engine keeps some 0.8 MB of each document for as long as its
 * compiler lives, whatever is evicted; a new one costs about one document's time and finds the cache as it was.
 */
const RENEW_EVERY = 50

const newCompiler = () =>
  NodeCompiler.create({ fontArgs: [{ fontBlobs: fonts() }], workspace: roomFile('server/compose') })

let fontBytes: Buffer[] | null = null
const fonts = () => (fontBytes ??= fontFiles.map((file) => readFileSync(file)))

/** The collector, called by name: what the old compiler holds lies outside the heap, so that nothing else would wake it. */
const collect: () => void = (() => {
  setFlagsFromString('--expose-gc')
  return runInNewContext('gc') as () => void
})()

/** The page engine of one thread. Not shared: a compiler serves one document at a time. */
export class PageEngine {
  private compiler = newCompiler()
  private compiled = 0

  /** Draws a finished document. `proof` links every merged part to `origin:N`. `at` is the PDF's date (UTC). */
  document(document: FinishedDocument, options: { proof: boolean; at: Date }): Composed {
    const result = this.compile('agreement.typ', {
      doc: JSON.stringify(document),
      proof: options.proof ? 'yes' : 'no',
    })
    const blanks = this.compiler.query(result, { selector: '<blank>', field: 'value' }) as PlacedBlank[]
    return { pdf: this.pdf(result, options.at), pages: result.numOfPages, blanks }
  }

  /** Draws the evidence pages that close an executed document. */
  evidence(data: EvidenceData, at: Date): Uint8Array {
    return this.pdf(this.compile('evidence.typ', { doc: JSON.stringify(data) }), at)
  }

  /** Draws the pages that are laid over a document. */
  stamps(data: StampData, at: Date): Uint8Array {
    return this.pdf(this.compile('stamps.typ', { doc: JSON.stringify(data) }), at)
  }

  private compile(program: string, inputs: Record<string, string>) {
    this.compiled++
    if (this.compiled % RENEW_EVERY === 0) this.renew()
    else if (this.compiled % EVICT_EVERY === 0) this.compiler.evictCache(1)
    const run = this.compiler.compile({ mainFilePath: roomFile(`server/compose/${program}`), inputs })
    const failure = run.takeError()
    if (!run.result)
      throw new Error(`The pages could not be drawn: ${JSON.stringify(failure?.shortDiagnostics ?? [])}`)
    return run.result
  }

  private renew(): void {
    this.compiler.evictCache(0)
    this.compiler = newCompiler()
    collect()
  }

  private pdf(result: Parameters<NodeCompiler['pdf']>[0], at: Date): Uint8Array {
    return this.compiler.pdf(result, { creationTimestamp: Math.floor(at.getTime() / 1000) })
  }
}
