import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { move } from '#core/agreement/states.ts'
import { routeBundle } from '#core/packet/bundle.ts'
import type { Bundle, MergedBundle } from '#core/packet/bundle.ts'
import type { Rule } from '#core/routing/route.ts'
import type { TrailDetail } from '#core/trail/trail.ts'
import type { App } from '#server/app.ts'
import type { Db } from '#server/db/connect.ts'
import { agreement, party, revision, step } from '#server/db/schema.ts'
import { conflict } from '#server/problem.ts'
import type { ComposedBundle } from './drawing.ts'
import { record } from './trail.ts'

type Agreement = typeof agreement.$inferSelect

/** A document drawn for an agreement, and what the agreement says of itself with it. */
export interface Drawn {
  readonly bundle: Bundle
  readonly merged: MergedBundle
  readonly composed: ComposedBundle
  readonly rules: readonly Rule[]
  readonly author: string
  readonly content: Pick<
    Agreement,
    'name' | 'fileName' | 'data' | 'subject' | 'message' | 'wording' | 'language' | 'copies' | 'extra'
  >
}

/** Stores the document of a revision and its parties. */
export async function keepRevision(
  app: App,
  db: Db,
  agreementId: string,
  number: number,
  { merged, composed }: Drawn,
): Promise<string> {
  const fileSha256 = await app.files.put(db, composed.pdf, 'application/pdf', app.now())
  await db.insert(revision).values({
    agreementId,
    number,
    fileSha256,
    pages: composed.pages,
    blanks: composed.blanks,
    parts: composed.parts,
  })
  await db.insert(party).values(
    merged.people.map(({ role, label, order, name, email, title }) => ({
      id: randomUUID(),
      agreementId,
      revision: number,
      role,
      label,
      order,
      name,
      email,
      title,
    })),
  )
  return fileSha256
}

/** Asks for the approvals that the rules want of a draft's revision; without any it is cleared, and the trail says so. */
export async function putToApproval(
  app: App,
  db: Db,
  agreementId: string,
  number: number,
  { bundle, merged, rules, content }: Drawn,
  changedByHand: boolean,
): Promise<void> {
  const routed = routeBundle(bundle, rules, content.data, { changed_by_hand: changedByHand })
  if (!routed.ok) throw conflict(routed.problem)
  const state = move('draft', 'route', { openSteps: routed.steps.length, unsigned: merged.people.length })
  if (!state.ok) throw conflict(state.problem)
  const now = app.now()
  if (routed.steps.length)
    await db.insert(step).values(
      routed.steps.map(({ approver, reason }) => ({
        id: randomUUID(),
        agreementId,
        revision: number,
        round: 1,
        approver,
        reason,
        state: 'waiting' as const,
        since: now,
      })),
    )
  await db.update(agreement).set({ state: state.state, changedAt: now }).where(eq(agreement.id, agreementId))
  const at = now.toISOString()
  await record(
    db,
    agreementId,
    routed.steps.length
      ? routed.steps.map(({ approver, reason }) => ({
          at,
          actor: 'Brevan',
          act: 'put to approval',
          detail: { approver, reason },
        }))
      : [{ at, actor: 'Brevan', act: 'cleared', detail: { reason: 'No rule asks for approval' } }],
  )
}

/** The next revision of an agreement that has not gone out: a new document under the same number, approved anew. */
export async function addRevision(
  app: App,
  db: Db,
  made: Agreement,
  drawn: Drawn,
  told: { readonly act: string; readonly detail: TrailDetail; readonly changedByHand: boolean },
): Promise<void> {
  const revise = move(made.state, 'revise', { openSteps: 0, unsigned: drawn.merged.people.length })
  if (!revise.ok) throw conflict(revise.problem)
  const number = made.revision + 1
  const fileSha256 = await keepRevision(app, db, made.id, number, drawn)
  await db
    .update(agreement)
    .set({ ...drawn.content, revision: number, state: revise.state, changedAt: app.now() })
    .where(eq(agreement.id, made.id))
  await record(db, made.id, [
    {
      at: app.now().toISOString(),
      actor: drawn.author,
      act: told.act,
      detail: { ...told.detail, revision: number, document: fileSha256 },
    },
  ])
  await putToApproval(app, db, made.id, number, drawn, told.changedByHand)
}
