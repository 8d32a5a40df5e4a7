import { and, asc, eq, gte } from 'drizzle-orm'
import type * as v from 'valibot'
import type { rowValuesQuery, rowValuesSchema } from '#contract/run.ts'
import { RECORD_STEPS, withBudget } from '#core/expression/values/budget.ts'
import { shownValues } from '#core/merge/shown.ts'
import type { Bundle } from '#core/packet/bundle.ts'
import type { Field } from '#core/outline/field.ts'
import { patternNames } from '#core/text/pattern.ts'
import type { App } from '#server/app/app.ts'
import { runRow } from '#server/db/schema.ts'
import { openRun } from './runs.ts'

/** Rows whose values are worked out at once. */
const AT_ONCE = 100

/** Fields that can be shown of every row: those of all documents, each name once; what comes by itself of signers is left out. */
export const shownFields = ({ parts }: Bundle): readonly Field[] => [
  ...new Map(
    parts.flatMap(({ content }) => content.outline.map((field) => [field.name, field] as const)),
  ).values(),
]

/** Fields that the message to signers names, beside those that its subject and the agreement's name say of every row. */
export function tellingFields(bundle: Bundle): string[] {
  const { sending } = bundle.parts[0].content
  const said = new Set([sending.agreementName, sending.subject].flatMap(patternNames))
  const shown = new Set(shownFields(bundle).map(({ name }) => name))
  return [...new Set(patternNames(sending.message))]
    .filter((name) => shown.has(name) && !said.has(name))
    .slice(0, 2)
}

/** What rows say in these fields as their agreements show it, computed values too: a hundred rows from one on. */
export async function rowValues(
  app: App,
  id: string,
  { from, fields }: v.InferOutput<typeof rowValuesQuery>,
): Promise<v.InferOutput<typeof rowValuesSchema>> {
  const { found, bundle } = await openRun(app, id)
  const rows = await app.db
    .select({ row: runRow.row, data: runRow.data, changed: runRow.changed })
    .from(runRow)
    .where(and(eq(runRow.runId, found.id), gte(runRow.row, from)))
    .orderBy(asc(runRow.row))
    .limit(AT_ONCE)
  const wanted = bundle.parts.map((ready) => ({
    ready,
    fields: fields.flatMap((name) => ready.fields.get(name) ?? []),
  }))
  return rows.map(({ row, data, changed }) => ({
    row,
    values: Object.assign(
      {},
      ...withBudget(RECORD_STEPS, () =>
        wanted.map((part) => shownValues(part.ready, changed ?? data, part.fields)),
      ),
    ) as Record<string, string | null>,
  }))
}
