import { deserialize } from 'node:v8'
import type { FinishedDocument } from '#core/merge/finished.ts'
import { BudgetSpent } from '#core/expression/values/budget.ts'
import type { Outline } from '#core/outline/field.ts'
import { prepareOutline } from '#core/outline/record.ts'
import { type Filterable, filterRecords, type RecordFilter } from '#core/records/filter.ts'
import { namesFor, type TemplateNames } from '#core/rules/names.ts'
import type { LookBackTask } from '#core/rules/look-back.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { rowChecker, type RowGroup, type RunTerms } from '#core/run/check.ts'
import type { Said } from '#core/sheet/columns.ts'
import type { Reading } from '#core/sheet/book.ts'
import { move, transferableSymbol, valueSymbol } from 'piscina'
import type { PackedSheet, ReadSheet } from '#server/convert/sheet/read-sheet.ts'
import { Kept } from '#server/ground/kept.ts'
import type { SealRequest } from '#server/seal/seal.ts'
import type { PagesOfPart } from '#server/compose/append.ts'
import type { CombinedPart } from '#server/compose/combine.ts'
import { type DrawOptions, PageEngine } from '#server/compose/engine.ts'
import type { EvidencePages } from '#server/compose/evidence.ts'
import type { SharedTerms } from './shared-terms.ts'
import type { Stamp } from '#server/compose/stamps.ts'

let engine: PageEngine | null = null
const pages = () => (engine ??= new PageEngine())

const checkers = new Kept<ReturnType<typeof rowChecker>>(4)

/** Rows of one piece of a packed sheet: what one statement puts into the database. */
const ROWS_PACKED = 1000

/**
 * A sheet with its rows as JSON, some at a time, as the database takes them: millions of cells handed over one by one would
 * hold up whoever is given them for seconds, and be written out again there.
 */
function packed(read: ReadSheet): PackedSheet {
  if (!read.ok) return read
  const { rows, ...rest } = read
  const packs: Uint8Array[] = []
  for (let from = 0; from < rows.length; from += ROWS_PACKED)
    packs.push(new TextEncoder().encode(JSON.stringify(rows.slice(from, from + ROWS_PACKED))))
  const rowCount = rows.filter(({ aside }) => aside === null).length
  return moved({ ...rest, rowCount, packs }, packs)
}

/** Hands buffers over instead of copying them. */
const moved = <T extends object>(value: T, buffers: readonly Uint8Array[]): T =>
  move(
    Object.assign(Object.create(Object.getPrototypeOf(value) as object) as T, value, {
      [transferableSymbol]: buffers.map(({ buffer }) => buffer),
      [valueSymbol]: value,
    }) as never,
  ) as unknown as T

/** What a thread can do. Libraries are loaded on first use: threads that only draw do without some 50 MB. */
export const tasks = {
  document: async ({ document, options }: { document: FinishedDocument; options: DrawOptions }) =>
    document.body === 'text'
      ? pages().document(document, options)
      : (await import('#server/compose/form-pages.ts')).drawForm(pages(), document, options),

  evidence: (task: { data: EvidencePages; at: Date }) => pages().evidence(task.data, task.at),

  stamp: async (task: { pdf: Uint8Array; stamps: readonly Stamp[]; at: Date }) =>
    (await import('#server/seal/stamp.ts')).stamp(pages(), task.pdf, task.stamps, task.at),

  seal: async (request: SealRequest) => (await import('#server/seal/seal.ts')).seal(pages(), request),

  examine: async ({ bytes }: { bytes: Uint8Array }) =>
    (await import('#server/seal/examine.ts')).examine(bytes),

  paperCodes: async (task: {
    pdf: Uint8Array
    codes: readonly { readonly code: string; readonly line: string }[]
    at: Date
  }) => (await import('#server/compose/paper-codes.ts')).withPaperCodes(task.pdf, task.codes, task.at),

  readScan: async ({ bytes }: { bytes: Uint8Array }) =>
    (await import('#server/convert/scan/read-scan.ts')).readScan(bytes),

  emptyPlaces: async (task: {
    print: Uint8Array
    pages: Parameters<(typeof import('#server/convert/scan/back-pages.ts'))['emptyPlaces']>[1]
  }) => (await import('#server/convert/scan/back-pages.ts')).emptyPlaces(task.print, task.pages),

  bindScan: async (task: {
    pages: Parameters<(typeof import('#server/compose/bind-scan.ts'))['bindScan']>[0]
    title: string
    at: Date
  }) => (await import('#server/compose/bind-scan.ts')).bindScan(task.pages, task.title, task.at),

  readSheet: async (task: {
    name: string
    bytes: Uint8Array
    reading?: Reading
    said?: Readonly<Record<string, Said>>
  }) =>
    packed(
      await (
        await import('#server/convert/sheet/read-sheet.ts')
      ).readSheetFile(task.name, task.bytes, task.reading, task.said),
    ),

  readDocx: async (task: { name: string; bytes: Uint8Array }) =>
    (await import('#server/convert/docx/read.ts')).readDocx(task.name, task.bytes, (picture) =>
      pages().draws(picture),
    ),

  bringIn: async ({ bytes }: { bytes: Uint8Array }) =>
    (await import('#server/convert/pages/bring-in.ts')).bringIn(bytes),

  readPicture: async ({ bytes }: { bytes: Uint8Array }) => {
    const { readPicture, undrawable } = await import('#server/convert/read-picture.ts')
    const read = readPicture(bytes)
    return read.ok && !pages().draws(bytes) ? undrawable : read
  },

  analyseTable: async (task: { table: RuleTable; templates: readonly TemplateNames[] }) => {
    const { analyse } = await import('#core/rules/analysis/analyse.ts')
    return analyse(task.table, namesFor(task.templates))
  },

  lookBack: async (task: LookBackTask) => (await import('#core/rules/look-back.ts')).lookBack(task),

  readDmn: async (task: { bytes: Uint8Array }) =>
    (await import('#server/convert/dmn/read.ts')).readDmn(task.bytes),

  writeDmn: async (task: { table: RuleTable; names: readonly TemplateNames[]; model: string | null }) =>
    (await import('#server/convert/dmn/write.ts')).writeDmn(task.table, namesFor(task.names), task.model),

  combine: async (task: { parts: readonly CombinedPart[]; at: Date }) =>
    (await import('#server/compose/combine.ts')).combinePdfs(task.parts, task.at),

  part: async (task: { pdf: Uint8Array; part: PagesOfPart; title: string; at: Date }) =>
    (await import('#server/compose/combine.ts')).partOfPdf(task.pdf, task.part, task.title, task.at),

  findRecords: ({
    outline,
    records,
    filter,
  }: {
    outline: Outline
    records: readonly Filterable[]
    filter: RecordFilter
  }): readonly number[] | null => {
    const prepared = prepareOutline(outline)
    if (!prepared.ok) throw new Error(prepared.problems[0]!.message)
    try {
      return filterRecords(
        prepared.ready,
        records.map((record, place) => ({ ...record, place })),
        filter,
      ).map(({ place }) => place)
    } catch (error) {
      if (error instanceof BudgetSpent) return null
      throw error
    }
  },

  /** Checks some rows of a run by its terms, which are prepared once for all rows that come by them. */
  checkRows: ({ terms, groups }: { terms: SharedTerms; groups: readonly RowGroup[] }) =>
    groups.map(checkers.take(terms.key, () => rowChecker(deserialize(Buffer.from(terms.bytes)) as RunTerms))),
} as const

/** One task at a time. `begun` tells the pool from when its time counts. */
export default function run({
  name,
  task,
  begun,
}: {
  name: keyof typeof tasks
  task: never
  begun: Int32Array
}): unknown {
  Atomics.store(begun, 0, 1)
  return (tasks[name] as (task: never) => unknown)(task)
}
