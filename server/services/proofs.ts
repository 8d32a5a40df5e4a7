import type * as v from 'valibot'
import type { proofRequest, proofSchema } from '#contract/template.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { blockTitle } from '#core/document/walk.ts'
import { readRow } from '#core/mapping/apply.ts'
import { merge } from '#core/merge/merge.ts'
import type { Merged } from '#core/merge/finished.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import type { PreparedTemplate } from '#core/merge/prepare.ts'
import { coerce } from '#core/outline/coerce.ts'
import type { RecordData } from '#core/outline/field.ts'
import { cellText } from '#core/sheet/cell.ts'
import { columnLetters } from '#core/sheet/header.ts'
import type { App } from '#server/app.ts'
import { sha256 } from '#server/files/store.ts'
import { rowLabel } from './row-label.ts'
import { currentMapping, oneRow } from './sheets.ts'

type Proof = v.InferOutput<typeof proofSchema>

/** Templates prepared lately, by their content: stepping through rows proofs the same one many times. */
const prepared = new Map<string, PreparedTemplate>()
const KEPT = 8

function prepare(content: TemplateContent): PreparedTemplate {
  const key = sha256(JSON.stringify(content))
  const made = prepared.get(key) ?? prepareTemplate(content)
  prepared.delete(key)
  prepared.set(key, made)
  if (prepared.size > KEPT) prepared.delete(prepared.keys().next().value!)
  return made
}

/** The finished pages of a draft for one row; without a sheet, for the outline's examples. Sent to nobody. */
export async function proof(app: App, request: v.InferOutput<typeof proofRequest>): Promise<Proof> {
  const started = performance.now()
  const { content, templateId, sheetId } = request
  const empty = {
    pdf: null,
    pages: 0,
    row: request.row,
    rowLabel: '',
    problems: [],
    kept: [],
    dropped: [],
    origins: [],
  }
  const ready = prepare(content)
  if (!ready.ok) return { ...empty, faults: [...ready.problems], milliseconds: performance.now() - started }
  const source = sheetId ? await fromSheet(app, sheetId, templateId, content, request.row) : null
  const data = source?.data ?? examples(content)
  const merged = merge(ready.ready, data, null)
  const composed = await app.pages.document(merged.document, { proof: true, at: new Date(0) })
  const conditional = ready.ready.conditional
  const kept = new Set(merged.wording.split(' '))
  return {
    pdf: Buffer.from(composed.pdf).toString('base64'),
    pages: composed.pages,
    row: source?.row ?? null,
    rowLabel: source ? rowLabel(content, data, source.row) : 'Examples of the outline',
    faults: [],
    problems: [...(source?.problems ?? []), ...newProblems(merged, source?.problems ?? [])],
    kept: conditional.filter((block) => kept.has(block.attrs.id)).map(blockTitle),
    dropped: conditional.filter((block) => !kept.has(block.attrs.id)).map(blockTitle),
    origins: merged.origins.map((origin) => ({
      ...origin,
      ...(source?.cells.get(origin.field) ?? { column: null, cell: null }),
    })),
    milliseconds: performance.now() - started,
  }
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
  const { columns, inForce } = await currentMapping(app, sheetId, content, templateId)
  const found = await oneRow(app, sheetId, wanted)
  if (!found) return null
  const read = readRow(content.outline, columns, inForce, found.cells)
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

function examples(content: TemplateContent): RecordData {
  const entries = content.outline.flatMap((field) => {
    const read = field.example === undefined ? null : coerce(field, field.example, null)
    return read?.ok && read.value !== null ? [[field.name, read.value] as const] : []
  })
  return Object.fromEntries(entries)
}
