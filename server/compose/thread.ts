import { deserialize } from 'node:v8'
import type { FinishedDocument } from '#core/merge/finished.ts'
import { rowChecker } from '#core/run/check.ts'
import type { RowGroup, RunTerms } from '#core/run/check.ts'
import type { Said } from '#core/sheet/columns.ts'
import type { Reading } from '#server/convert/sheet/read-sheet.ts'
import { Kept } from '#server/kept.ts'
import type { Part } from './append.ts'
import type { CombinedPart } from './combine.ts'
import { PageEngine } from './engine.ts'
import type { DrawOptions } from './engine.ts'
import type { EvidenceData } from './evidence.ts'
import type { SharedTerms } from './pool.ts'
import type { StampData } from './stamps.ts'

let engine: PageEngine | null = null
const pages = () => (engine ??= new PageEngine())

export const document = (task: { document: FinishedDocument; options: DrawOptions }) =>
  pages().document(task.document, task.options)

export const evidence = (task: { data: EvidenceData; at: Date }) => pages().evidence(task.data, task.at)

export const stamps = (task: { data: StampData; at: Date }) => pages().stamps(task.data, task.at)

/** The spreadsheet libraries are loaded on first use: threads that only draw do without their 50 MB. */
export const readSheet = async (task: {
  name: string
  bytes: Uint8Array
  reading?: Reading
  said?: Readonly<Record<string, Said>>
}) =>
  (await import('#server/convert/sheet/read-sheet.ts')).readSheetFile(
    task.name,
    task.bytes,
    task.reading,
    task.said,
  )

export const readDocx = async (task: { name: string; bytes: Uint8Array }) =>
  (await import('#server/convert/docx/read.ts')).readDocx(task.name, task.bytes)

export const combine = async (task: { parts: readonly CombinedPart[]; at: Date }) =>
  (await import('./combine.ts')).combinePdfs(task.parts, task.at)

export const part = async (task: { pdf: Uint8Array; part: Part; title: string; at: Date }) =>
  (await import('./combine.ts')).partOfPdf(task.pdf, task.part, task.title, task.at)

const checkers = new Kept<ReturnType<typeof rowChecker>>(4)

/** Checks some rows of a run by its terms, which are prepared once for all rows that come by them. */
export const checkRows = ({ terms, groups }: { terms: SharedTerms; groups: readonly RowGroup[] }) =>
  groups.map(checkers.take(terms.key, () => rowChecker(deserialize(Buffer.from(terms.bytes)) as RunTerms)))
