import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import { move } from '#core/agreement/states.ts'
import { mergeBundle } from '#core/packet/bundle.ts'
import { changedClauses } from '#core/rules/agreement-facts.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Ground } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import type { Db } from '#server/db/connect.ts'
import { one } from '#server/db/one.ts'
import { agreement, claim, edition, run, sheet } from '#server/db/schema.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { ownersOf, putAgain } from '#server/services/agreements/routes.ts'
import { rulesFor } from '#server/services/rules/in-force.ts'
import { bundleOf } from '#server/services/templates/editions.ts'
import { approvalOf } from './revisions.ts'

type Agreement = typeof agreement.$inferSelect

/** What an agreement that is there is routed by: the tables in force for its templates, and how it was made. */
export async function rulesOfAgreement(ground: Ground, row: Agreement) {
  const { db } = ground
  const bundle = await bundleOf(ground, row)
  const [made] = await db
    .select({ rows: sheet.rowCount, by: run.createdBy })
    .from(claim)
    .innerJoin(run, eq(run.id, claim.runId))
    .innerJoin(sheet, eq(sheet.id, run.sheetId))
    .where(eq(claim.id, row.id))
  const rules = await rulesFor(
    db,
    bundle.editions.map(({ templateId }) => templateId),
    { author: made?.by ?? row.createdBy, from: made ? 'sheet' : 'record', rows: made?.rows ?? 1 },
  )
  return { bundle, rules }
}

/** Clauses that were changed by hand in a wording of its own; null where it has its template's. */
export async function changedByHand(db: Db, row: Pick<Agreement, 'content' | 'editionId'>) {
  if (row.content === null) return null
  const published = one(await db.select().from(edition).where(eq(edition.id, row.editionId)))
  return changedClauses(published.content.document, row.content.document)
}

/** Puts a returned agreement to approval again, by the rules in force now; what was approved and is the same counts on. */
export async function routeAgain(app: App, by: Person, agreementId: string): Promise<void> {
  await requireMay(app, by, 'runs')
  await transaction(app, async (work) => {
    const { db } = work
    const [row] = await db.select().from(agreement).where(eq(agreement.id, agreementId)).for('update')
    if (!row) throw notFound('agreement')
    const may = move(row.state, 'route', { openSteps: 0, unsigned: 1 })
    if (!may.ok) throw conflict(may.problem)
    const { bundle, rules } = await rulesOfAgreement(work, row)
    const merged = mergeBundle(bundle, row.data, row.number)
    const owner = (await ownersOf(db, [row])).get(row.id) ?? null
    const approval = approvalOf(
      { bundle, merged, rules, content: row },
      { owner, changedClauses: await changedByHand(db, row) },
    )
    await putAgain(work, row, {
      revision: row.revision,
      steps: approval.steps,
      directory: rules.directory,
    })
  })
}
