import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { surveyRequest, surveySchema } from '#contract/template.ts'
import { inPieces } from '#core/expression/values/budget.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { readRow } from '#core/mapping/apply.ts'
import { suppliedFields } from '#core/merge/fields.ts'
import { completeRecord, toValue } from '#core/outline/record.ts'
import { formatValue } from '#core/text/format.ts'
import type { CellRow } from '#core/outline/cell.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { senderOf } from '#server/services/templates/editions.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { prepareOutlineOf } from './proofs.ts'
import { currentMapping } from '#server/services/sheets/mappings.ts'
import { ROWS_AT_ONCE, rowPages } from '#server/services/sheets/sheet-rows.ts'

/** Steps that the conditions of a survey may take over all rows, and over those that are looked at without a pause. */
const [SURVEY_STEPS, PAGE_STEPS] = [5_000_000, 250_000]

type Survey = v.InferOutput<typeof surveySchema>

/**
 * Looks at every row of a sheet: for how many of them each condition holds, and which row gives the longest value of a
 * field. A condition that does not compile, or reads the items of a repeat, holds nowhere and is undecided everywhere.
 */
export async function survey(
  app: App,
  by: Person,
  request: v.InferOutput<typeof surveyRequest>,
): Promise<Survey> {
  await requireMay(app, by, 'templates')
  const { content, sheetId, templateId, longest } = request
  const outline = prepareOutlineOf(content)
  const supplied = suppliedFields(content)
  const { columns, inForce } = await currentMapping(app, sheetId, supplied, templateId)
  const sender = senderOf(content, by, (await organisationOf(app.db)).name)
  const conditions = request.conditions.map((text) => {
    const compiled = compileExpression(text)
    return { expression: compiled.ok ? compiled.expression : null, holds: 0, undecided: 0 }
  })
  const field = longest === null ? undefined : outline?.outline.find(({ name }) => name === longest)
  let found: Survey['longest'] = null
  let rows = 0
  const look = ({ row, cells }: { readonly row: number; readonly cells: CellRow }) => {
    const read = readRow(supplied, columns, inForce, cells)
    const { data, context } = completeRecord(outline!, { ...read.data, ...sender })
    for (const condition of conditions) {
      const value = condition.expression?.evaluate(context) ?? null
      if (value === true) condition.holds++
      else if (typeof value !== 'boolean') condition.undecided++
    }
    const value = field && data[field.name]
    const text =
      value === undefined ? null : formatValue(field!, toValue(field!, value), null, content.language)
    if (text !== null && text.length > (found?.text.length ?? -1)) found = { row, text }
  }
  // Between two pages others have their turn; none of them may wait long.
  const bounded = inPieces(SURVEY_STEPS, PAGE_STEPS)
  for await (const page of rowPages(app.db, sheetId, ROWS_AT_ONCE, (each) => each)) {
    rows += page.length
    if (outline)
      bounded(() => {
        for (const row of page) look(row)
      })
  }
  return {
    rows,
    conditions: conditions.map(({ holds, undecided }) => ({ holds, undecided })),
    longest: found,
  }
}
