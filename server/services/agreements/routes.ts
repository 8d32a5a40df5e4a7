import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { type AgreementState, move } from '#core/agreement/states.ts'
import { decidersOf } from '#core/approvers/authority.ts'
import type { Directory } from '#core/approvers/directory.ts'
import { type GivenApproval, routedAgain } from '#core/routing/again.ts'
import { describeReasons, type RouteStep } from '#core/routing/route.ts'
import { type Act, ALL_GIVEN, routingActs } from '#core/trail/acts.ts'
import type { Work } from '#server/app/app.ts'
import type { Db } from '#server/db/connect.ts'
import { STEP } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { agreement, person, record, step } from '#server/db/schema.ts'
import { conflict } from '#server/ground/problem.ts'
import { today } from '#server/services/rules/directory.ts'
import { enqueueEmail } from './mails.ts'
import { happened } from './trail.ts'

// The steps of an agreement's route: kept, opened one after the other, worked out again after an edit.

/** An approval as its row has it. */
export type Step = typeof step.$inferSelect
type NewStep = typeof step.$inferInsert
type Agreement = typeof agreement.$inferSelect

const DAY = 86_400_000

/** When a step is overdue that waits from a time on; null: never. */
export const dueFrom = (days: number | null, since: Date): Date | null =>
  days === null ? null : new Date(since.getTime() + days * DAY)

/** The steps of a route that begins: those that come first wait, the others are to come. */
export function firstSteps(
  agreementId: string,
  revision: number,
  route: readonly RouteStep[],
  at: Date,
  round = 1,
): readonly NewStep[] {
  const first = Math.min(...route.map(({ order }) => order))
  return route.map(({ approver, who, order, days, escalateTo, reasons, basis }) => ({
    id: randomUUID(),
    agreementId,
    revision,
    round,
    approver,
    who,
    order,
    reason: describeReasons(reasons),
    reasons,
    basis,
    days,
    escalateTo,
    state: order === first ? 'waiting' : 'to come',
    since: at,
    dueAt: order === first ? dueFrom(days, at) : null,
  }))
}

/** Whether a step is still to be decided. */
export const isOpen = ({ state }: Pick<NewStep, 'state'>): boolean =>
  state === 'waiting' || state === 'to come'

/** The state of an agreement that is put to approval with these steps. */
export function stateOf(signers: number, steps: readonly Pick<NewStep, 'state'>[]): AgreementState {
  const moved = move('draft', 'route', { openSteps: steps.filter(isOpen).length, unsigned: signers })
  if (!moved.ok) throw conflict(moved.problem)
  return moved.state
}

/** Adds steps to what there is. */
export async function keepSteps(db: Db, steps: readonly NewStep[]): Promise<void> {
  if (steps.length) await db.insert(step).values([...steps])
}

const customer = alias(record, 'customer')

/** Whoever is responsible for the records of agreements: the records' owners, else whoever made them. */
export async function ownersOf(
  db: Db,
  of: readonly Pick<Agreement, 'id' | 'recordId' | 'createdBy'>[],
): Promise<ReadonlyMap<string, string>> {
  const ids = of.flatMap(({ recordId }) => recordId ?? [])
  const rows = ids.length
    ? await db
        .select({
          id: record.id,
          // Of a deal without one: the customer's.
          owner: sql<string | null>`coalesce(${record.ownerId}, ${customer.ownerId})`,
        })
        .from(record)
        .leftJoin(customer, eq(customer.id, record.customerId))
        .where(inArray(record.id, ids))
    : []
  const owners = new Map(rows.map(({ id, owner }) => [id, owner]))
  return new Map(
    of.map(({ id, recordId, createdBy }) => [id, (recordId && owners.get(recordId)) ?? createdBy]),
  )
}

/** The steps of an agreement's present round, in their order. */
export async function presentSteps(
  db: Db,
  { id, revision }: Pick<Agreement, 'id' | 'revision'>,
): Promise<readonly Step[]> {
  const all = await db
    .select()
    .from(step)
    .where(and(eq(step.agreementId, id), eq(step.revision, revision)))
    .orderBy(asc(step.order), asc(step.approver))
  return lastRound(all)
}

/** Those of the last round, which alone count. */
export const lastRound = <S extends { readonly round: number }>(steps: readonly S[]): readonly S[] => {
  const round = Math.max(0, ...steps.map((found) => found.round))
  return steps.filter((found) => found.round === round)
}

/** Steps that are open fall: another round asks anew for what is still needed. */
export async function letOpenFall(
  db: Db,
  { id, revision }: Pick<Agreement, 'id' | 'revision'>,
): Promise<void> {
  const { to, where } = moving(step.state, STEP, 'fall')
  await db
    .update(step)
    .set({ state: to, dueAt: null })
    .where(and(eq(step.agreementId, id), eq(step.revision, revision), where))
}

/** Opens the steps that come next, once none waits any more. */
export async function openNext(work: Work, row: Agreement, directory: Directory): Promise<void> {
  const steps = await presentSteps(work.db, row)
  if (steps.some(({ state }) => state === 'waiting')) return
  const next = Math.min(...steps.filter(({ state }) => state === 'to come').map(({ order }) => order))
  const opened: Step[] = []
  for (const each of steps.filter(({ state, order }) => state === 'to come' && order === next)) {
    const since = work.now()
    const { to, where } = moving(step.state, STEP, 'open')
    const [made] = await work.db
      .update(step)
      .set({ state: to, since, dueAt: dueFrom(each.days, since) })
      .where(and(eq(step.id, each.id), where))
      .returning()
    if (made) opened.push(made)
  }
  await tellSteps(work, row, opened, directory)
}

/**
 * Puts an agreement to approval again, by a route worked out anew: approvals for the same values count on, the others fall, and
 * the trail says which and why. `before`: the approvals that were given, of whatever revision they were.
 */
export async function putAgain(
  work: Work,
  row: Agreement,
  route: { readonly revision: number; readonly steps: readonly RouteStep[]; readonly directory: Directory },
): Promise<AgreementState> {
  const { db } = work
  const { directory, revision } = route
  const now = work.now()
  const day = await today(work)
  const former = await presentSteps(db, row)
  const given = former.flatMap((each): (GivenApproval & { readonly step: Step })[] =>
    each.state === 'approved' && each.decidedBy
      ? [{ id: each.id, approver: each.approver, basis: each.basis, by: each.decidedBy, step: each }]
      : [],
  )
  const again = routedAgain(
    given,
    route.steps,
    (asked, by) =>
      decidersOf({ who: asked.who, shapedBy: row.shapedBy }, directory, day).some(({ id }) => id === by),
    row.shapedBy,
  )
  // What still waited is asked for anew, or no more.
  await letOpenFall(db, row)
  const round = row.revision === revision ? Math.max(0, ...former.map((each) => each.round)) + 1 : 1
  const fresh = firstSteps(
    row.id,
    revision,
    again.steps.filter(({ kept }) => !kept).map((each) => each.step),
    now,
    round,
  )
  const kept = again.steps.flatMap(({ step: asked, kept: by }) => {
    const from = given.find(({ id }) => id === by?.id)?.step
    return from ? firstSteps(row.id, revision, [asked], now, round).map((made) => countingOn(made, from)) : []
  })
  await keepSteps(db, [...fresh, ...kept])
  const acts = actsOf(again, kept, fresh.length, await namesOf(db))
  const moved = move('draft', 'route', { openSteps: fresh.length, unsigned: 1 })
  if (!moved.ok) throw conflict(moved.problem)
  await db.update(agreement).set({ state: moved.state, changedAt: now }).where(eq(agreement.id, row.id))
  await happened(work, row.id, null, ...acts)
  await tellSteps(work, row, fresh, directory)
  return moved.state
}

/** A step of the new round that the approval given before answers already. */
const countingOn = (made: NewStep, { id, decidedAt, decidedBy, decidedFor, note, since }: Step) => ({
  ...made,
  state: 'approved' as const,
  decidedAt,
  decidedBy,
  decidedFor,
  note,
  since,
  dueAt: null,
  keptFrom: id,
})

/** What the trail says of a route that was worked out anew: what fell, what counts on, and what is asked. */
const actsOf = (
  again: ReturnType<typeof routedAgain>,
  kept: readonly ReturnType<typeof countingOn>[],
  fresh: number,
  names: ReadonlyMap<string, string>,
): readonly Act[] => [
  ...again.fallen.map(({ given: { approver, by }, reason }): Act => ({
    act: 'approval fallen',
    detail: { as: approver, by: names.get(by) ?? '', reason },
  })),
  ...kept.map((each): Act => ({
    act: 'approval kept',
    detail: { as: each.approver, by: (each.decidedBy && names.get(each.decidedBy)) ?? '' },
  })),
  ...(fresh > 0 || !kept.length
    ? routingActs(again.steps.filter((each) => !each.kept).map((each) => each.step))
    : [ALL_GIVEN]),
]

/** Names of people by their ids. */
export const namesOf = async (db: Db): Promise<ReadonlyMap<string, string>> =>
  new Map(
    (await db.select({ id: person.id, name: person.name }).from(person)).map(({ id, name }) => [id, name]),
  )

/** Mails those who may decide steps that wait now, but for those who want to hear once a day. */
export async function tellSteps(
  work: Work,
  row: Pick<Agreement, 'id' | 'name' | 'shapedBy'>,
  steps: readonly NewStep[],
  directory: Directory,
): Promise<void> {
  const waiting = steps.filter(({ state }) => state === 'waiting')
  if (!waiting.length) return
  const day = await today(work)
  const asked = new Map<string, NewStep>()
  for (const each of waiting)
    for (const { id } of decidersOf(
      { who: each.who, handedTo: each.handedTo, shapedBy: row.shapedBy },
      directory,
      day,
    ))
      if (!asked.has(id)) asked.set(id, each)
  if (!asked.size) return
  const people = await work.db
    .select({ id: person.id, name: person.name, email: person.email, mail: person.approvalMail })
    .from(person)
    .where(inArray(person.id, [...asked.keys()]))
  for (const { id, name, email, mail } of people)
    if (mail === 'each')
      await enqueueEmail(work, {
        key: `approval:${asked.get(id)!.id}:${id}`,
        agreementId: row.id,
        to: email,
        subject: `To approve: ${row.name}`,
        body: {
          greeting: `${name},`,
          paragraphs: [`${row.name} waits for your approval.`, `Why: ${asked.get(id)!.reason}.`],
          link: { label: 'Open it', url: `${work.settings.publicUrl}/approvals/${asked.get(id)!.id}` },
          attachment: null,
        },
      })
}
