import type * as v from 'valibot'
import type { proofRequest, proofSchema } from '#contract/template.ts'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { TODAY } from '#core/expression/values/value.ts'
import { itemKey } from '#core/mapping/key.ts'
import { readRow } from '#core/mapping/apply.ts'
import { isText } from '#core/document/walk.ts'
import { suppliedFields, templateFields } from '#core/merge/fields.ts'
import { merge } from '#core/merge/merge.ts'
import { shownValues } from '#core/merge/shown.ts'
import type { Merged } from '#core/merge/finished.ts'
import { passagesOf } from '#core/wording/key.ts'
import { dayIn } from '#core/organisation/organisation.ts'
import { coerce } from '#core/outline/coerce.ts'
import type { Field, PlainValue, RecordData } from '#core/outline/field.ts'
import { prepareOutline, type ReadyOutline } from '#core/outline/record.ts'
import { cellText } from '#core/outline/cell.ts'
import { columnLetters } from '#core/sheet/header.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { invalid } from '#server/ground/problem.ts'
import { drawDocument, lookOf } from '#server/services/templates/drawing.ts'
import { agreementData } from '#server/services/making/by-hand.ts'
import { formFaults } from '#server/services/templates/page-files.ts'
import { prepare, senderOf } from '#server/services/templates/editions.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { rowLabel } from '#core/run/label.ts'
import { currentMapping } from '#server/services/sheets/mappings.ts'
import { oneRow } from '#server/services/sheets/sheet-rows.ts'

type Proof = v.InferOutput<typeof proofSchema>

/** The finished pages of a draft for one row; without a sheet, for the outline's examples. Sent to nobody. */
export async function proof(
  app: App,
  by: Person,
  request: v.InferOutput<typeof proofRequest>,
): Promise<Proof> {
  await requireMay(app, by, 'templates')
  const started = performance.now()
  const { content } = request
  const ready = prepare(content)
  if (!ready.ok)
    return {
      pdf: null,
      pages: 0,
      row: request.row,
      rowLabel: '',
      faults: [...ready.problems],
      problems: [],
      kept: [],
      dropped: [],
      origins: [],
      overflow: [],
      alone: [],
      cues: [],
      values: {},
      data: {},
      milliseconds: performance.now() - started,
    }
  const cues = await formFaults(app.db, content)
  const source = await dataFor(app, by, request)
  const merged = merge(ready.ready, source.data, null, { trace: true })
  const look = await lookOf(app.db, content.look)
  const composed = await drawDocument(app, merged.document, look, { proof: true, at: new Date(0) })
  const kept = new Set(passagesOf(merged.wording))
  const ids = ready.ready.conditional.map(({ attrs }) => attrs.id)
  return {
    pdf: Buffer.from(composed.pdf).toString('base64'),
    pages: composed.pages,
    row: source.row,
    rowLabel: source.row === null ? 'Examples of the data' : rowLabel(content, source.data, source.row),
    faults: [],
    problems: [...source.problems, ...newProblems(merged, source.problems)],
    kept: ids.filter((id) => kept.has(id)),
    dropped: ids.filter((id) => !kept.has(id)),
    origins: merged.origins.map((origin) => ({
      ...origin,
      ...(source.cells.get(cellKey(origin)) ?? { column: null, cell: null }),
    })),
    overflow: composed.overflow.map(({ origin, blank, text }) => ({
      origin: origin ?? null,
      text,
      where: blank ?? merged.origins[origin ?? -1]?.label ?? '',
    })),
    alone: [...composed.alone],
    cues: [...cues],
    values: shownValues(ready.ready, source.data),
    data: mutable(source.data),
    milliseconds: performance.now() - started,
  }
}

/** The same pages as a file to keep, on request by a PDF standard. */
export async function printProof(
  app: App,
  by: Person,
  request: v.InferOutput<typeof proofRequest>,
  standard: 'ua-1' | 'a-2b' | null,
): Promise<Uint8Array> {
  await requireMay(app, by, 'templates')
  if (standard && !isText(request.content.document))
    throw invalid(
      `Pages that were brought in stay as their file has them: they cannot be made as PDF/${standard.toUpperCase()}.`,
    )
  const ready = prepare(request.content)
  if (!ready.ok) throw invalid(`The draft has a fault: ${ready.problems[0]!.message}`)
  const { data } = await dataFor(app, by, request)
  const merged = merge(ready.ready, data, null)
  const look = await lookOf(app.db, request.content.look)
  try {
    const drawn = await drawDocument(app, merged.document, look, {
      proof: false,
      at: app.now(),
      standard,
      mark: 'PROOF',
    })
    return drawn.pdf
  } catch (error) {
    // The engine refuses what a standard forbids, such as headings that skip a level, and says so.
    if (standard && error instanceof Error)
      throw invalid(
        `These pages cannot be made as PDF/${standard.toUpperCase()}: ${plainWords(error.message)}`,
      )
    throw error
  }
}

const plainWords = (message: string): string => {
  const told = /"message":\s*"([^"]+)"/.exec(message)?.[1]
  return told ?? message.slice(0, 300)
}

/** Contract types are mutable, the core's are not. */
const mutable = (data: RecordData): Proof['data'] => structuredClone(data) as Proof['data']

/** The mapping key of the cell an origin came from: its field's, or that of the item's field. */
const cellKey = ({ field, item }: { readonly field: string; readonly item: number | null }): string => {
  const dot = field.lastIndexOf('.')
  return item === null
    ? field
    : itemKey({ list: field.slice(0, dot), position: item, name: field.slice(dot + 1) })
}

interface SourceData {
  readonly row: number | null
  readonly data: RecordData
  readonly cells: ReadonlyMap<string, { column: string; cell: string }>
  readonly problems: Proof['problems']
}

/** The data of the row asked for, or of the outline's examples; with whoever asks as the sender. */
async function dataFor(
  app: App,
  by: Person,
  request: v.InferOutput<typeof proofRequest>,
): Promise<SourceData> {
  const { content, templateId, sheetId, row, agreementId } = request
  if (agreementId) {
    const { data } = await agreementData(app, agreementId)
    return { row: null, data, cells: new Map(), problems: [] }
  }
  const source = sheetId ? await fromSheet(app, sheetId, templateId, content, row) : null
  const organisation = await organisationOf(app.db)
  const sender = {
    ...senderOf(content, by, organisation.name),
    [TODAY]: dayIn(organisation.timeZone, app.now()),
  }
  return source
    ? { ...source, data: { ...source.data, ...sender } }
    : { row: null, data: { ...examples(content), ...sender }, cells: new Map(), problems: [] }
}

/** A field whose cell is at fault is told once, in the words of the cell. */
const newProblems = (merged: Merged, told: Proof['problems']) =>
  merged.problems.filter(
    (problem, i) =>
      !told.some(({ field }) => field !== null && field === problem.field) &&
      merged.problems.findIndex((other) => other.message === problem.message) === i,
  )

async function fromSheet(
  app: App,
  sheetId: string,
  templateId: string,
  content: TemplateContent,
  wanted: number | null,
) {
  const supplied = suppliedFields(content)
  const { columns, inForce } = await currentMapping(app, sheetId, supplied, templateId)
  const found = await oneRow(app, sheetId, wanted)
  if (!found) return null
  const read = readRow(supplied, columns, inForce, found.cells)
  const cells = new Map(
    Object.entries(inForce).map(([field, column]) => {
      const position = columns.findIndex(({ name }) => name === column)
      return [
        field,
        {
          column: `${column} (${columnLetters(position)}${found.row})`,
          cell: cellText(found.cells[position] ?? null),
        },
      ]
    }),
  )
  return {
    row: found.row,
    data: read.data,
    cells,
    problems: read.problems.map(({ field, message }) => ({ field, block: null, message })),
  }
}

/** A record made of the outline's examples; of a list, two items. */
export function examples(content: TemplateContent): RecordData {
  const plain = (fields: readonly Field[]): readonly (readonly [string, PlainValue])[] =>
    fields.flatMap((field) => {
      const read = field.example ? coerce(field, field.example, null) : null
      return read?.ok && read.value !== null ? [[field.name, read.value] as const] : []
    })
  const supplied = suppliedFields(content)
  return {
    ...Object.fromEntries(plain(supplied.filter(({ type }) => type !== 'list'))),
    ...Object.fromEntries(
      supplied
        .filter(({ type, items }) => type === 'list' && plain(items ?? []).length > 0)
        .map(({ name, items }) => {
          const item = Object.fromEntries(plain(items ?? []))
          return [name, [item, item]] as const
        }),
    ),
  }
}

/** The outline of a draft, ready to complete records; null where it has faults. */
export function prepareOutlineOf(content: TemplateContent): ReadyOutline | null {
  const { outline, given } = templateFields(content)
  const prepared = prepareOutline(outline, given)
  return prepared.ok ? prepared.ready : null
}
