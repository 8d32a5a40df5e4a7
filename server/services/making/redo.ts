import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { rowChangesSchema } from '#contract/run.ts'
import { differingParagraphs } from '#core/compare/paragraphs.ts'
import { finishedText } from '#core/merge/text.ts'
import { bundleFields, mergeBundle } from '#core/packet/bundle.ts'
import { toValue } from '#core/outline/record.ts'
import type { RecordData } from '#core/outline/field.ts'
import { formatValue } from '#core/text/format.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { agreement, claim, run, runRow } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { revisionRefusal } from './revisions.ts'
import { openRun } from '#server/services/runs/runs.ts'
import { transitionRun } from '#server/services/runs/transition-run.ts'

/** What a made row would say now, against what it says: the values that differ, and the paragraphs. */
export async function rowChanges(
  app: App,
  id: string,
  row: number,
): Promise<v.InferOutput<typeof rowChangesSchema>> {
  const [found] = await app.db
    .select({ row: runRow, agreement })
    .from(runRow)
    .innerJoin(claim, and(eq(claim.runId, runRow.runId), eq(claim.row, runRow.row)))
    .innerJoin(agreement, eq(agreement.id, claim.id))
    .where(and(eq(runRow.runId, id), eq(runRow.row, row)))
  if (!found) throw notFound('row')
  const after = found.row.changed ?? found.row.data
  const { bundle } = await openRun(app, id, found.row.language)
  const textOf = (data: RecordData) =>
    mergeBundle(bundle, data, found.agreement.number).documents.flatMap(({ document }) =>
      finishedText(document),
    )
  const fields = bundleFields(bundle).filter(({ type }) => type !== 'list')
  const { language } = bundle.parts[0].content
  return {
    values: fields.flatMap((field) => {
      const shown = (data: RecordData) => {
        const value = data[field.name]
        return value === undefined ? '' : (formatValue(field, toValue(field, value), null, language) ?? '')
      }
      const [before, now] = [shown(found.agreement.data), shown(after)]
      return before === now ? [] : [{ label: field.label, before, after: now }]
    }),
    paragraphs: differingParagraphs(textOf(found.agreement.data), textOf(after)).map((words) => [...words]),
    refusal: redoRefusal(found.agreement, found.row),
  }
}

/** Why a made row cannot be made again; null where it can. */
function redoRefusal(made: typeof agreement.$inferSelect, row: typeof runRow.$inferSelect): string | null {
  if (row.changed === null) return 'Nothing has changed in its source.'
  if (row.problems.length) return `The row needs a hand first: ${row.problems[0]!.message}`
  if (made.content)
    return 'Its wording was changed by hand: change its values there, so that nothing is lost.'
  return revisionRefusal(made, 'it')
}

/**
 * Makes the rows again whose source has changed since, all or those named; each agreement keeps its number and gets its
 * next revision. Rows that were never made stay as they are, and the run as it was.
 */
export async function redoRows(app: App, by: Person, id: string, rows?: readonly number[]) {
  await requireMay(app, by, 'runs')
  return transaction(app, async ({ db, enqueue }) => {
    const [found] = await db.select().from(run).where(eq(run.id, id)).for('update')
    if (!found) throw notFound('run')
    const changed = await db
      .select({ row: runRow, agreement })
      .from(runRow)
      .innerJoin(claim, and(eq(claim.runId, runRow.runId), eq(claim.row, runRow.row)))
      .innerJoin(agreement, eq(agreement.id, claim.id))
      .where(
        and(
          eq(runRow.runId, id),
          isNotNull(runRow.changed),
          rows ? inArray(runRow.row, [...rows]) : undefined,
        ),
      )
    const redone = changed.filter((each) => redoRefusal(each.agreement, each.row) === null)
    if (redone.length === 0) throw conflict('There is no row that can be made again.')
    await db
      .update(runRow)
      .set({ state: 'ready', data: sql`${runRow.changed}`, changed: null })
      .where(
        and(
          eq(runRow.runId, id),
          inArray(
            runRow.row,
            redone.map((each) => each.row.row),
          ),
        ),
      )
    await transitionRun(db, id, 'redo', {
      redoneFrom: found.state,
      generateEndedAt: null,
      generatedBy: by.id,
    })
    await enqueue('generate-run', { runId: id })
    return { redone: redone.length, refused: changed.length - redone.length }
  })
}
