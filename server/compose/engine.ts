import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { NodeCompiler } from '@myriaddreamin/typst-ts-node-compiler'
import type { Look } from '#core/document/look.ts'
import type { BlankRules, FinishedText } from '#core/merge/finished.ts'
import { stretchesOf } from '#core/merge/walk-finished.ts'
import type { PlacedBlank } from '#core/agreement/signing.ts'
import type { EvidencePages } from './evidence.ts'
import type { FormData } from './form-layout.ts'
import type { StampData } from './stamps.ts'
import { roomFile } from '#server/ground/room.ts'

/** A document as it was drawn. */
export interface Composed {
  readonly pdf: Uint8Array
  readonly pages: number
  readonly blanks: readonly PlacedBlank[]
  /** In proofs: values wider than the room they have. */
  readonly overflow: readonly { readonly origin?: number; readonly blank?: string; readonly text: string }[]
  /** In proofs: blocks of signatures, by their passages' ids, that stand on a page with no words above them. */
  readonly alone: readonly string[]
}

/** How a document is drawn. */
export interface DrawOptions {
  /** Links every merged part to `origin:N` and watches for what is too wide. */
  readonly proof: boolean
  /** The PDF's date (UTC). */
  readonly at: Date
  readonly look: Look
  /** Bytes of the pictures that the document or the look names. */
  readonly pictures: readonly { readonly name: string; readonly bytes: Uint8Array }[]
  /** Files of the pages that a form lies over, by their hash; threads share their memory. */
  readonly files?: readonly { readonly name: string; readonly bytes: Uint8Array }[]
  /** A PDF standard to keep: PDF/UA-1 or PDF/A-2b. */
  readonly standard?: 'ua-1' | 'a-2b' | null
  /** Words printed across every page. */
  readonly mark?: string
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
  face('courier-prime', '400Regular', 'CourierPrime_400Regular'),
  face('caveat', '600SemiBold', 'Caveat_600SemiBold'),
  face('dancing-script', '600SemiBold', 'DancingScript_600SemiBold'),
  face('kalam', '400Regular', 'Kalam_400Regular'),
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

  /** Draws a finished text. */
  document(document: FinishedText, options: DrawOptions): Composed {
    const result = this.compileWithPictures(document, options)
    const spots = this.compiler.query(result, { selector: '<blank>', field: 'value' }) as Spot[]
    const told = <T>(label: string): readonly T[] =>
      options.proof ? (this.compiler.query(result, { selector: label, field: 'value' }) as T[]) : []
    return {
      pdf: this.pdf(result, options.at, options.standard ?? null),
      pages: result.numOfPages,
      blanks: placedBlanks(spots, rulesOf(document)),
      overflow: told<Composed['overflow'][number]>('<overflow>'),
      alone: told<string>('<alone>'),
    }
  }

  /** Draws what is laid over pages that are there already, and tells what has no room. */
  overForm(
    data: FormData,
    at: Date,
  ): {
    readonly pdf: Uint8Array
    readonly overflow: readonly { readonly place: number; readonly text: string }[]
  } {
    const result = this.compile('form.typ', { doc: JSON.stringify(data) })
    const overflow = this.compiler.query(result, { selector: '<overflow>', field: 'value' }) as {
      place: number
      text: string
    }[]
    return { pdf: this.pdf(result, at), overflow }
  }

  /** Draws the evidence pages that close an executed document. */
  evidence(data: EvidencePages, at: Date): Uint8Array {
    return this.pdf(this.compile('evidence.typ', { doc: JSON.stringify(data) }), at)
  }

  /** Draws the pages that are laid over a document. */
  stamps(data: StampData, at: Date, pictures: DrawOptions['pictures'] = []): Uint8Array {
    return this.pdf(this.compile('stamps.typ', { doc: JSON.stringify(data) }, pictures), at)
  }

  /** Whether a picture can be drawn: told by drawing it. */
  draws(bytes: Uint8Array): boolean {
    this.rest()
    this.compiler.mapShadow(picturePath('tried'), Buffer.from(bytes))
    try {
      const run = this.compiler.compile({ mainFilePath: roomFile('server/compose/picture.typ'), inputs: {} })
      // What is only wrong inside of a picture shows when the pages are written.
      return run.result !== null && this.pdf(run.result, new Date(0)).length > 0
    } catch {
      return false
    } finally {
      this.compiler.unmapShadow(picturePath('tried'))
    }
  }

  /** One picture that cannot be drawn never takes the document with it: an empty frame stands in its place. */
  private compileWithPictures(document: FinishedText, options: DrawOptions) {
    const inputs = (lost: readonly string[]) => ({
      doc: JSON.stringify(document),
      look: JSON.stringify(options.look),
      proof: options.proof ? 'yes' : 'no',
      mark: options.mark ?? '',
      lost: JSON.stringify(lost),
    })
    const { pictures } = options
    try {
      return this.compile('agreement.typ', inputs([]), pictures)
    } catch (error) {
      const lost = pictures.filter(({ bytes }) => !this.draws(bytes)).map(({ name }) => name)
      if (lost.length === 0) throw error
      return this.compile(
        'agreement.typ',
        inputs(lost),
        pictures.filter(({ name }) => !lost.includes(name)),
      )
    }
  }

  /** From time to time the cache drops what is old, or the compiler is a new one; pictures have to be mapped after that. */
  private rest(): void {
    this.compiled++
    if (this.compiled % RENEW_EVERY === 0) this.renew()
    else if (this.compiled % EVICT_EVERY === 0) this.compiler.evictCache(1)
  }

  private compile(program: string, inputs: Record<string, string>, pictures: DrawOptions['pictures'] = []) {
    this.rest()
    for (const { name, bytes } of pictures) this.compiler.mapShadow(picturePath(name), Buffer.from(bytes))
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

  private pdf(
    result: Parameters<NodeCompiler['pdf']>[0],
    at: Date,
    standard: 'ua-1' | 'a-2b' | null = null,
  ): Uint8Array {
    return this.compiler.pdf(result, {
      creationTimestamp: Math.floor(at.getTime() / 1000),
      ...(standard ? { pdfStandard: standard } : {}),
    })
  }
}

/** Where the page program finds a picture; the file is never on disk there. */
const picturePath = (name: string): string => roomFile(`server/compose/pictures/${name}`)

/** A place as the page program tells it; each option of a choice has one. */
type Spot = Omit<PlacedBlank, 'rules' | 'options'> & { readonly option: number | null }

const rulesOf = (document: FinishedText): ReadonlyMap<string, BlankRules> =>
  new Map(
    stretchesOf(document).flatMap((run) => (run.kind === 'blank' ? [[run.blank.id, run.blank.rules]] : [])),
  )

/** One blank for each id: the places of a choice's options are gathered in it. */
function placedBlanks(
  spots: readonly Spot[],
  rules: ReadonlyMap<string, BlankRules>,
): readonly PlacedBlank[] {
  const blanks = new Map<string, PlacedBlank>()
  for (const { option, ...spot } of spots) {
    const rule = rules.get(spot.id)
    const before = blanks.get(spot.id)
    const place = { page: spot.page, x: spot.x, y: spot.y }
    blanks.set(spot.id, {
      ...(before ?? spot),
      ...(rule && Object.keys(rule).length ? { rules: rule } : {}),
      ...(option === null ? {} : { options: [...(before?.options ?? []), place] }),
    })
  }
  return [...blanks.values()]
}
