import { randomUUID } from 'node:crypto'
import { and, eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { Decider } from '#core/approvers/authority.ts'
import { ALL_GIVEN } from '#core/trail/acts.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App, Work } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { STEP } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { agreement, step, wordingOpened } from '#server/db/schema.ts'
import { invalid, notFound, Refusal } from '#server/ground/problem.ts'
import { transitionAgreement } from './agreements.ts'
import type { Authority } from './deciding.ts'
import { opened, refuseDecided, refuseOthers } from './open-step.ts'
import { keepSteps, letOpenFall, openNext, presentSteps, type Step } from './routes.ts'
import { happened } from './trail.ts'

type Agreement = typeof agreement.$inferSelect

/** What a decider says; `to`: the earlier step that it goes back to, else to the author. */
export type Decision =
  | { readonly decision: 'approve'; readonly note: string }
  | { readonly decision: 'return'; readonly note: string; readonly to?: string | null | undefined }

/** Approves or returns one step. Two deciders at once: the first counts, the second is told. */
export async function decide(
  app: App,
  by: Person,
  agreementId: string,
  stepId: string,
  decision: Decision,
): Promise<void> {
  await requireMay(app, by, 'approve')
  await transaction(app, async (work) => {
    const { row, step: found, authority, as } = await opened(work, by, agreementId, stepId)
    refuseOthers(by, row, found, as)
    await refuseDecided(work.db, row, found)
    if (decision.decision === 'approve') await approve(work, by, row, found, as, decision.note, authority)
    else await giveBack(work, by, row, found, as, decision, authority)
  })
}

const inTheName = (as: Decider) => (as.standsInFor === null ? {} : { for: as.standsInFor })

async function approve(
  work: Work,
  by: Person,
  row: Agreement,
  found: Step,
  as: Decider,
  note: string,
  { directory }: Authority,
): Promise<void> {
  const { to, where } = moving(step.state, STEP, 'approve')
  await work.db
    .update(step)
    .set({
      state: to,
      note: note || null,
      decidedAt: work.now(),
      decidedBy: by.id,
      decidedFor: as.standsInFor,
    })
    .where(and(eq(step.id, found.id), where))
  await openNext(work, row, directory)
  const moved = await transitionAgreement(work, row.id, 'approve')
  await happened(work, row.id, by.name, {
    act: 'approved',
    detail: { as: found.approver, reason: found.reason, note, ...inTheName(as) },
  })
  if (moved.state === 'cleared') await happened(work, row.id, null, ALL_GIVEN)
}

/** Returns it to its author, or to somebody who has approved it already: theirs is asked for again. */
async function giveBack(
  work: Work,
  by: Person,
  row: Agreement,
  found: Step,
  as: Decider,
  { note, to }: Extract<Decision, { decision: 'return' }>,
  { directory }: Authority,
): Promise<void> {
  const { db } = work
  const present = await presentSteps(db, row)
  const earlier = to ? present.find(({ id, state }) => id === to && state === 'approved') : null
  if (to && !earlier) throw invalid('It can go back only to somebody who has approved it.')
  const { to: returned, where } = moving(step.state, STEP, 'return')
  await db
    .update(step)
    .set({
      state: returned,
      note,
      decidedAt: work.now(),
      decidedBy: by.id,
      decidedFor: as.standsInFor,
      dueAt: null,
    })
    .where(and(eq(step.id, found.id), where))
  const told = { as: found.approver, reason: found.reason, note, ...inTheName(as) }
  if (!earlier) {
    await transitionAgreement(work, row.id, 'return')
    await happened(work, row.id, by.name, { act: 'returned', detail: told })
    return
  }
  await letOpenFall(db, row)
  const now = work.now()
  const round = found.round + 1
  const again = present.map((each): Step => {
    const asked = { ...each, id: randomUUID(), round, escalatedAt: null, remindedAt: null }
    return each.state === 'approved' && each.id !== earlier.id
      ? { ...asked, keptFrom: each.id }
      : { ...asked, ...undecided, state: 'to come', since: now, dueAt: null }
  })
  await keepSteps(db, again)
  await db.update(agreement).set({ changedAt: now }).where(eq(agreement.id, row.id))
  await happened(work, row.id, by.name, { act: 'returned', detail: { ...told, to: earlier.approver } })
  await openNext(work, row, directory)
}

const undecided = { decidedAt: null, decidedBy: null, decidedFor: null, note: null, keptFrom: null }

/** A key of what somebody has to have opened before they approve it with others at once. */
const wordingKey = ({ id, content, revision, wording }: Agreement): string =>
  content === null ? wording : `${id} ${revision}`

/** Notes that somebody has an agreement's wording before their eyes. */
export async function noteOpened(app: App, by: Person, agreementId: string): Promise<void> {
  const [row] = await app.db.select().from(agreement).where(eq(agreement.id, agreementId))
  if (!row) throw notFound('agreement')
  await app.db
    .insert(wordingOpened)
    .values({ personId: by.id, editionId: row.editionId, wording: wordingKey(row), at: app.now() })
    .onConflictDoNothing()
}

/** Approves many, each by itself; what cannot be approved says why. Refused where their wording has not been opened. */
export async function approveMany(
  app: App,
  by: Person,
  steps: readonly { readonly agreement: string; readonly step: string }[],
): Promise<{ approved: number; refused: { number: string; problem: string }[] }> {
  await requireMay(app, by, 'approve')
  const seen = new Set(
    (await app.db.select().from(wordingOpened).where(eq(wordingOpened.personId, by.id))).map(
      ({ editionId, wording }) => `${editionId} ${wording}`,
    ),
  )
  const told = { approved: 0, refused: [] as { number: string; problem: string }[] }
  for (const each of steps) {
    const [row] = await app.db.select().from(agreement).where(eq(agreement.id, each.agreement))
    const number = row?.number ?? ''
    if (row && !seen.has(`${row.editionId} ${wordingKey(row)}`)) {
      told.refused.push({ number, problem: 'You have not opened an agreement of its wording yet.' })
      continue
    }
    try {
      await decide(app, by, each.agreement, each.step, { decision: 'approve', note: '' })
      told.approved++
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      told.refused.push({ number, problem: error.message })
    }
  }
  return told
}
