import { and, desc, eq, lt, ne, sql } from 'drizzle-orm'
import type { Differences } from '#contract/approval.ts'
import { differingParagraphs } from '#core/compare/paragraphs.ts'
import { shown } from '#core/merge/fill.ts'
import { finishedText } from '#core/merge/text.ts'
import { type Bundle, bundleFields, mergeBundle } from '#core/packet/bundle.ts'
import { labelField } from '#core/run/label.ts'
import type { App } from '#server/app/app.ts'
import { agreement, edition } from '#server/db/schema.ts'
import { notFound } from '#server/ground/problem.ts'
import { bundleOf } from '#server/services/templates/editions.ts'

type Agreement = typeof agreement.$inferSelect

/** An agreement’s wording, paragraph by paragraph, all documents one after the other. */
const textOf = (bundle: Bundle, { data, number }: Pick<Agreement, 'data' | 'number'>): readonly string[] =>
  mergeBundle(bundle, data, number).documents.flatMap(({ document }) => finishedText(document))

/** What an approver looks at first: what is not the standard wording, and what is not as it was with this customer. */
export async function differences(app: App, id: string): Promise<Differences> {
  const [row] = await app.db.select().from(agreement).where(eq(agreement.id, id))
  if (!row) throw notFound('agreement')
  const bundle = await bundleOf(app, row)
  const now = textOf(bundle, row)
  const standard =
    row.content === null
      ? null
      : told(differingParagraphs(textOf(await bundleOf(app, { ...row, content: null }), row), now))
  const before = await lastWithCustomer(app, row, bundle)
  if (!before) return { standard, last: null }
  const former = await bundleOf(app, before)
  const values = bundleFields(bundle).flatMap(({ name, label, type }) => {
    const [was, is] = [shown(former.parts[0], before.data, name), shown(bundle.parts[0], row.data, name)]
    return type === 'list' || was === is ? [] : [{ label, before: was ?? '', after: is ?? '' }]
  })
  return {
    standard,
    last: {
      id: before.id,
      number: before.number,
      name: before.name,
      at: before.createdAt.toISOString(),
      values,
      paragraphs: told(differingParagraphs(textOf(former, before), now)),
    },
  }
}

/** As many as anybody reads; a wholly other wording is seen as one. */
const SHOWN = 60

const told = (paragraphs: ReturnType<typeof differingParagraphs>) =>
  paragraphs.slice(0, SHOWN).map((words) => ({ words: words.map((word) => ({ ...word })) }))

/** The last agreement of the same template with the same customer: of the same record, or of the same name. */
async function lastWithCustomer(
  app: App,
  row: Agreement,
  bundle: Bundle & { readonly editions: readonly { readonly templateId: string }[] },
) {
  const name = labelField(bundle.parts[0].content)
  const said = row.data[name]
  if (typeof said !== 'string' || said.trim() === '') return null
  const [found] = await app.db
    .select({ agreement })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(
      and(
        eq(edition.templateId, bundle.editions[0]!.templateId),
        ne(agreement.id, row.id),
        lt(agreement.createdAt, row.createdAt),
        sql`lower(${agreement.data}->>${name}) = lower(${said})`,
      ),
    )
    .orderBy(desc(agreement.createdAt))
    .limit(1)
  return found?.agreement ?? null
}
