import { Piscina } from 'piscina'
import type { FinishedDocument } from '#core/merge/finished.ts'
import type { Outline } from '#core/outline/field.ts'
import type { Filterable, RecordFilter } from '#core/records/filter.ts'
import type { Analysis } from '#core/rules/analysis/analyse.ts'
import type { LookBackTask, LookedBack } from '#core/rules/look-back.ts'
import type { TemplateNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import type { CheckedGroup, RowGroup } from '#core/run/check.ts'
import type { ReadDmn } from '#server/convert/dmn/read.ts'
import type { Said } from '#core/sheet/columns.ts'
import type { Reading } from '#core/sheet/book.ts'
import { roomFile } from '#server/ground/room.ts'
import type { ReadDocx } from '#server/convert/docx/read.ts'
import type { ReadPicture } from '#server/convert/read-picture.ts'
import type { PackedSheet } from '#server/convert/sheet/read-sheet.ts'
import type { BroughtIn } from '#server/convert/pages/bring-in.ts'
import type { BackPage } from '#server/convert/scan/back-pages.ts'
import type { ReadScan } from '#server/convert/scan/read-scan.ts'
import type { Examined } from '#server/seal/examine.ts'
import type { SealRequest } from '#server/seal/seal.ts'
import type { PagesOfPart } from '#server/compose/append.ts'
import type { CombinedPart } from '#server/compose/combine.ts'
import type { Composed, DrawOptions } from '#server/compose/engine.ts'
import type { EvidencePages } from '#server/compose/evidence.ts'
import type { Stamp } from '#server/compose/stamps.ts'
import { onlyOutside } from '#server/db/open-transaction.ts'
import type { SharedTerms } from './shared-terms.ts'
import type { tasks } from './thread.ts'

/** The built thread beside a built server; from source (tests, development) the source, through the loader. */
const programOfThreads = () =>
  roomFile(
    import.meta.url.includes('/dist/server/')
      ? 'dist/server/thread.js'
      : 'server/worker-pools/thread-from-source.mjs',
  )

/** A thread was ended with its task: it took longer than it may, or more memory. What was asked for has not been done. */
export class WorkEnded extends Error {}

/**
 * Lanes of threads, so that one kind of work never waits behind another: pages being drawn, files from elsewhere being
 * read, and what signers wait for.
 */
type Lane = 'pages' | 'files' | 'signing'

type TaskName = keyof typeof tasks

/** Where each task is done, and the seconds it may take once it has begun. */
const TASKS: Readonly<Record<TaskName, { readonly lane: Lane; readonly seconds: number }>> = {
  document: { lane: 'pages', seconds: 30 },
  checkRows: { lane: 'pages', seconds: 60 },
  analyseTable: { lane: 'files', seconds: 20 },
  lookBack: { lane: 'pages', seconds: 60 },
  readDmn: { lane: 'files', seconds: 10 },
  writeDmn: { lane: 'files', seconds: 10 },
  combine: { lane: 'files', seconds: 300 },
  part: { lane: 'files', seconds: 30 },
  readSheet: { lane: 'files', seconds: 60 },
  readDocx: { lane: 'files', seconds: 30 },
  readPicture: { lane: 'files', seconds: 8 },
  findRecords: { lane: 'files', seconds: 8 },
  evidence: { lane: 'signing', seconds: 30 },
  stamp: { lane: 'signing', seconds: 15 },
  seal: { lane: 'signing', seconds: 60 },
  examine: { lane: 'files', seconds: 20 },
  paperCodes: { lane: 'files', seconds: 30 },
  readScan: { lane: 'files', seconds: 120 },
  bringIn: { lane: 'files', seconds: 240 },
  emptyPlaces: { lane: 'files', seconds: 60 },
  bindScan: { lane: 'files', seconds: 60 },
}

/** Megabytes of heap a thread may have; one that needs more ends, and not the process. */
const HEAP: Readonly<Record<Lane, number>> = { pages: 512, files: 512, signing: 256 }

/** How often the time of running tasks is looked at, in milliseconds. */
const LOOKED_AT = 200

interface Running {
  /** When its thread began, by the thread: 0 while it waits for one. */
  readonly begun: Int32Array
  readonly seconds: number
  readonly control: AbortController
  since: number | null
}

/** Threads that do what would hold up the event loop, each task for a bounded time. */
export class PagePool {
  private readonly lanes = new Map<Lane, Piscina>()
  private readonly running = new Set<Running>()
  private readonly watch: NodeJS.Timeout

  constructor(readonly threads: number) {
    this.watch = setInterval(() => this.endOverdue(), LOOKED_AT)
    this.watch.unref()
  }

  document(document: FinishedDocument, options: DrawOptions): Promise<Composed> {
    return this.run('document', { document, options })
  }

  evidence(data: EvidencePages, at: Date): Promise<Uint8Array> {
    return this.run('evidence', { data, at })
  }

  /** Lays values over the pages at their blanks; with nothing to lay over, the bytes come back as they were. */
  stamp(pdf: Uint8Array, stamps: readonly Stamp[], at: Date): Promise<Uint8Array> {
    return stamps.length ? this.run('stamp', { pdf, stamps, at }) : Promise.resolve(pdf)
  }

  /** Stamps, adds the evidence pages and seals. */
  seal(request: SealRequest): Promise<Uint8Array> {
    return this.run('seal', request)
  }

  /** Tells of a file whether its seal holds. */
  examine(bytes: Uint8Array): Promise<Examined> {
    return this.run('examine', { bytes })
  }

  /** The pages with a code on each, to be signed on paper. */
  paperCodes(
    pdf: Uint8Array,
    codes: readonly { readonly code: string; readonly line: string }[],
    at: Date,
  ): Promise<Uint8Array> {
    return this.run('paperCodes', { pdf, codes, at })
  }

  /** Makes pages of a file from elsewhere, and reads what stands on them. */
  bringIn(bytes: Uint8Array): Promise<BroughtIn> {
    return this.run('bringIn', { bytes })
  }

  /** What was scanned or photographed, page by page, with the codes on them. */
  readScan(bytes: Uint8Array): Promise<ReadScan> {
    return this.run('readScan', { bytes })
  }

  /** Of pages that came back from paper, by their numbers, the places in which nothing was written. */
  emptyPlaces(
    print: Uint8Array,
    pages: readonly BackPage[],
  ): Promise<ReadonlyMap<number, readonly string[]>> {
    return this.run('emptyPlaces', { print, pages })
  }

  /** Pictures of pages as one PDF; sizes in points. */
  bindScan(
    pages: readonly { readonly picture: Uint8Array; readonly width: number; readonly height: number }[],
    title: string,
    at: Date,
  ): Promise<Uint8Array> {
    return this.run('bindScan', { pages, title, at })
  }

  readSheet(
    name: string,
    bytes: Uint8Array,
    reading?: Reading,
    said?: Readonly<Record<string, Said>>,
  ): Promise<PackedSheet> {
    return this.run('readSheet', { name, bytes, ...(reading && { reading }), ...(said && { said }) })
  }

  readDocx(name: string, bytes: Uint8Array): Promise<ReadDocx> {
    return this.run('readDocx', { name, bytes })
  }

  /** Tells what picture the bytes are, and draws it once to see that it can be drawn. */
  readPicture(bytes: Uint8Array): Promise<ReadPicture> {
    return this.run('readPicture', { bytes })
  }

  /** Places of the records that fit a search, in its order; null where its condition takes too long. */
  findRecords(
    outline: Outline,
    records: readonly Filterable[],
    filter: RecordFilter,
  ): Promise<readonly number[] | null> {
    return this.run('findRecords', { outline, records, filter })
  }

  /** Checks rows of a run by its terms, which are prepared once a thread. */
  checkRows(terms: SharedTerms, groups: readonly RowGroup[]): Promise<readonly CheckedGroup[]> {
    return this.run('checkRows', { terms, groups })
  }

  /** What is wrong with a rule table over the names of these templates. */
  analyseTable(table: RuleTable, templates: readonly TemplateNames[]): Promise<Analysis> {
    return this.run('analyseTable', { table, templates })
  }

  /** What a draft would have asked of agreements, some at a time. */
  lookBack(task: LookBackTask): Promise<readonly LookedBack[]> {
    return this.run('lookBack', task)
  }

  /** A decision model from elsewhere as a rule table, and what it says beyond one. */
  readDmn(bytes: Uint8Array): Promise<ReadDmn> {
    return this.run('readDmn', { bytes })
  }

  /** A rule table as a decision model. */
  writeDmn(table: RuleTable, names: readonly TemplateNames[], model: string | null): Promise<string> {
    return this.run('writeDmn', { table, names, model })
  }

  /** Files one behind the other, with a bookmark to the first page of each. */
  combine(parts: readonly CombinedPart[], at: Date): Promise<Uint8Array> {
    return this.run('combine', { parts, at })
  }

  /** One of the files that a combined one was made of. */
  part(pdf: Uint8Array, part: PagesOfPart, title: string, at: Date): Promise<Uint8Array> {
    return this.run('part', { pdf, part, title, at })
  }

  async stop(): Promise<void> {
    clearInterval(this.watch)
    await Promise.all([...this.lanes.values()].map((lane) => lane.destroy()))
  }

  /** Hands a task to its lane. Rejects with WorkEnded where it took too long or needed too much. */
  private async run<N extends TaskName>(
    name: N,
    task: Parameters<(typeof tasks)[N]>[0],
  ): Promise<Awaited<ReturnType<(typeof tasks)[N]>>> {
    onlyOutside(`${name} was asked for`)
    const { lane, seconds } = TASKS[name]
    const running: Running = {
      begun: new Int32Array(new SharedArrayBuffer(4)),
      seconds,
      control: new AbortController(),
      since: null,
    }
    this.running.add(running)
    try {
      return (await this.laneOf(lane).run(
        { name, task, begun: running.begun },
        { signal: running.control.signal },
      )) as Awaited<ReturnType<(typeof tasks)[N]>>
    } catch (error) {
      throw ended(error, running)
    } finally {
      this.running.delete(running)
    }
  }

  private laneOf(lane: Lane): Piscina {
    const there = this.lanes.get(lane)
    if (there) return there
    const made = new Piscina({
      filename: programOfThreads(),
      minThreads: lane === 'pages' ? 1 : 0,
      maxThreads: lane === 'pages' ? this.threads : 1,
      idleTimeout: 60_000,
      // Threads wait in their event loop, not in an atomic wait: the page engine's finalizers run only there.
      atomics: 'disabled',
      resourceLimits: { maxOldGenerationSizeMb: HEAP[lane] },
    })
    this.lanes.set(lane, made)
    return made
  }

  /** Ends the threads whose tasks have had their time; what waits for a thread has not begun to count. */
  private endOverdue(): void {
    const now = performance.now()
    for (const task of this.running) {
      if (Atomics.load(task.begun, 0) === 0) continue
      task.since ??= now
      if (now - task.since > task.seconds * 1000) task.control.abort()
    }
  }
}

function ended(error: unknown, { control, seconds }: Running): unknown {
  if (control.signal.aborted)
    return new WorkEnded(`This took longer than ${seconds} seconds and was ended. Nothing was changed.`)
  const code = error instanceof Error && 'code' in error ? error.code : null
  if (code === 'ERR_WORKER_OUT_OF_MEMORY')
    return new WorkEnded('This needs more memory than there is for it, and was ended. Nothing was changed.')
  return error
}
