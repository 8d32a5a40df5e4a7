import { eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { ownWording, wordingChange } from '#contract/agreement.ts'
import type { Person } from '#contract/person.ts'
import { sameContent } from '#core/compare/equal.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, claim, edition, run } from '#server/db/schema.ts'
import { transaction } from '#server/app/transaction.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'
import { bundleOf, prepare } from '#server/services/templates/editions.ts'
import { formFaults } from '#server/services/templates/page-files.ts'
import { addRevision, drawAgreement, revisionRefusal } from './revisions.ts'
import { changedByHand, rulesOfAgreement } from './route-again.ts'

async function load(db: Db, id: string) {
  const [found] = await db
    .select({ row: agreement, edition })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  return found
}

/** The wording of one agreement beside that of its template. */
export async function readWording(app: App, id: string): Promise<v.InferOutput<typeof ownWording>> {
  const { row, edition: made } = await load(app.db, id)
  const mutable = (content: TemplateContent) =>
    structuredClone(content) as v.InferOutput<typeof ownWording>['content']
  return {
    number: row.number,
    name: row.name,
    templateId: made.templateId,
    revision: row.revision,
    content: mutable(row.content ?? made.content),
    template: mutable(made.content),
    byHand: row.content !== null,
    refusal: revisionRefusal(row, 'its wording'),
  }
}

/**
 * Gives one agreement a wording of its own, as its next revision: what differs from the template stays with it, and the
 * approvals are asked for anew, by rules that may ask whether a wording was changed by hand.
 */
export async function saveWording(
  app: App,
  by: Person,
  id: string,
  change: v.InferOutput<typeof wordingChange>,
): Promise<void> {
  await requireMay(app, by, 'runs')
  const { db } = app
  const mayChange = (row: typeof agreement.$inferSelect | undefined) => {
    if (!row) throw notFound('agreement')
    if (row.revision !== change.revision)
      throw conflict(
        'Somebody revised this agreement after you opened it. Open it again to see the other change.',
      )
    const problem = revisionRefusal(row, 'its wording')
    if (problem) throw conflict(problem)
    return row
  }
  const row = mayChange((await db.select().from(agreement).where(eq(agreement.id, id)))[0])
  const { edition: published } = await load(db, id)
  const before = row.content ?? published.content
  // The words alone: formulas, roles and all else that decides who signs and who approves are the edition's.
  const changed: TemplateContent = { ...before, document: change.document as TemplateContent['document'] }
  const prepared = prepare(changed)
  if (!prepared.ok) throw invalid(`The wording has a fault: ${prepared.problems[0]!.message}`)
  const [lost] = await formFaults(db, changed)
  if (lost) throw invalid(`The wording has a fault: ${lost.title}: ${lost.message}`)
  const same = sameContent(changed, published.content)
  const content = same ? null : changed
  if (sameContent(changed, before)) throw conflict('Nothing has been changed in the wording.')
  const bundle = await bundleOf(app, { ...row, content })
  const drawn = await drawAgreement(app, bundle, row.number, row, {
    rules: (await rulesOfAgreement(app, row)).rules,
    author: by.name,
    files: await filesOf(db, id),
    at: app.now(),
  })
  await transaction(app, async (work) => {
    // Drawn of what it was: it has to be that still.
    const [now] = await work.db.select().from(agreement).where(eq(agreement.id, id)).for('update')
    await addRevision(work, mayChange(now), drawn, {
      act: (revised) => ({
        act: same ? 'wording of the template again' : 'wording changed by hand',
        detail: { ...revised, note: change.note },
      }),
      content,
      changedClauses: await changedByHand(work.db, { ...row, content }),
      shapedBy: [by.id],
    })
  })
}

/** The pattern of file names that an agreement's run has of its own. */
async function filesOf(db: Db, id: string): Promise<string | null> {
  const [found] = await db
    .select({ setup: run.setup })
    .from(claim)
    .innerJoin(run, eq(run.id, claim.runId))
    .where(eq(claim.id, id))
  return found?.setup.fileName ?? null
}

/** The data of an agreement, for a proof of its wording. */
export async function agreementData(app: App, id: string) {
  const [found] = await app.db
    .select({ data: agreement.data, language: agreement.language })
    .from(agreement)
    .where(eq(agreement.id, id))
  if (!found) throw notFound('agreement')
  return found
}
