import { randomUUID } from 'node:crypto'
import { serialize } from 'node:v8'
import { Piscina } from 'piscina'
import type { FinishedDocument } from '#core/merge/finished.ts'
import type { CheckedGroup, RowGroup, RunTerms } from '#core/run/check.ts'
import type { Said } from '#core/sheet/columns.ts'
import { roomFile } from '#server/files/room.ts'
import type { ReadDocx } from '#server/convert/docx/read.ts'
import type { Reading, ReadSheet } from '#server/convert/sheet/read-sheet.ts'
import type { Part } from './append.ts'
import type { CombinedPart } from './combine.ts'
import type { Composed, DrawOptions } from './engine.ts'
import type { EvidenceData } from './evidence.ts'
import type { StampData } from './stamps.ts'

/** The built thread beside a built server; from source (tests, development) the source, through the loader. */
const thread = () =>
  roomFile(
    import.meta.url.includes('/dist/server/')
      ? 'dist/server/thread.js'
      : 'server/compose/thread-from-source.mjs',
  )

/** Terms of a run for all threads to read; `key` names them. */
export interface SharedTerms {
  readonly key: string
  readonly bytes: Uint8Array<SharedArrayBuffer>
}

/** Terms are as large as a template: hundreds of tasks go by the same ones, and copying them each time would cost. */
export function shareTerms(terms: RunTerms): SharedTerms {
  const encoded = serialize(terms)
  const bytes = new Uint8Array(new SharedArrayBuffer(encoded.length))
  bytes.set(encoded)
  return { key: randomUUID(), bytes }
}

/** Threads that do what would hold up the event loop: drawing pages, reading sheets, checking rows. */
export class PagePool {
  private readonly pool: Piscina

  constructor(readonly threads: number) {
    this.pool = new Piscina({
      filename: thread(),
      minThreads: 1,
      maxThreads: threads,
      idleTimeout: 60_000,
      // Threads wait in their event loop, not in an atomic wait: the page engine's finalizers run only there.
      atomics: 'disabled',
      resourceLimits: { maxOldGenerationSizeMb: 512 },
    })
  }

  document(document: FinishedDocument, options: DrawOptions): Promise<Composed> {
    return this.pool.run({ document, options }, { name: 'document' })
  }

  evidence(data: EvidenceData, at: Date): Promise<Uint8Array> {
    return this.pool.run({ data, at }, { name: 'evidence' })
  }

  stamps(data: StampData, at: Date): Promise<Uint8Array> {
    return this.pool.run({ data, at }, { name: 'stamps' })
  }

  readSheet(
    name: string,
    bytes: Uint8Array,
    reading?: Reading,
    said?: Readonly<Record<string, Said>>,
  ): Promise<ReadSheet> {
    return this.pool.run({ name, bytes, reading, said }, { name: 'readSheet' })
  }

  readDocx(name: string, bytes: Uint8Array): Promise<ReadDocx> {
    return this.pool.run({ name, bytes }, { name: 'readDocx' })
  }

  /** Checks rows of a run by its terms, which are prepared once a thread. */
  checkRows(terms: SharedTerms, groups: readonly RowGroup[]): Promise<readonly CheckedGroup[]> {
    return this.pool.run({ terms, groups }, { name: 'checkRows' })
  }

  /** Files one behind the other, with a bookmark to the first page of each. */
  combine(parts: readonly CombinedPart[], at: Date): Promise<Uint8Array> {
    return this.pool.run({ parts, at }, { name: 'combine' })
  }

  /** One of the files that a combined one was made of. */
  part(pdf: Uint8Array, part: Part, title: string, at: Date): Promise<Uint8Array> {
    return this.pool.run({ pdf, part, title, at }, { name: 'part' })
  }

  async stop(): Promise<void> {
    await this.pool.destroy()
  }
}
