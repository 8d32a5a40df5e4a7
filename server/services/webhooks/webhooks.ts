import { randomBytes, randomUUID } from 'node:crypto'
import { and, desc, eq, isNull, lt, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { deliverySchema, webhookSchema, webhookWish } from '#contract/program.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { DELIVERY } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { agreement, person, trail, webhook, webhookDelivery } from '#server/db/schema.ts'
import { conflict, invalid, notFound } from '#server/ground/problem.ts'

// Programs that are told what happens: made, ended, woken, and what they were told; the telling itself is in `telling.ts`.

type Hook = typeof webhook.$inferSelect

const iso = (at: Date | null) => at?.toISOString() ?? null

/** All of them, with how many acts wait. */
export async function listWebhooks(app: App, by: Person): Promise<v.InferOutput<typeof webhookSchema>[]> {
  await requireMay(app, by, 'settings')
  const waiting = sql<number>`(select count(*) from ${webhookDelivery} as d where d.webhook_id = ${webhook}.id and d.state = 'waiting')::int`
  const rows = await app.db
    .select({ hook: webhook, by: person.name, waiting })
    .from(webhook)
    .innerJoin(person, eq(person.id, webhook.createdBy))
    .orderBy(desc(webhook.createdAt))
  return rows.map(({ hook, by, waiting: left }) => ({
    id: hook.id,
    name: hook.name,
    url: hook.url,
    acts: hook.acts,
    createdAt: hook.createdAt.toISOString(),
    createdBy: by,
    ended: hook.endedBecause,
    silentSince: iso(hook.silentSince),
    triedAgainAt: iso(hook.triedAgainAt),
    waiting: left,
  }))
}

/** A new one; its secret is told here, and again to nobody. */
export async function makeWebhook(
  app: App,
  by: Person,
  { name, url, acts }: v.InferOutput<typeof webhookWish>,
) {
  await requireMay(app, by, 'settings')
  const address = new URL(url)
  if (address.username || address.password)
    throw invalid('An address carries no password: what is sent is signed.', [
      { pointer: '/url', detail: 'carries a password' },
    ])
  const [id, secret] = [randomUUID(), `whsec_${randomBytes(24).toString('base64')}`]
  await app.db.insert(webhook).values({
    id,
    name,
    url: address.href,
    acts: [...new Set(acts)],
    secret: app.secrets.seal(secret),
    createdAt: app.now(),
    createdBy: by.id,
  })
  return { id, secret }
}

/** It is told nothing more; what waited is given up. */
export async function dropWebhook(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'settings')
  await endWebhook(app, id, TAKEN_BACK)
}

/** Why one ended that somebody took back. */
export const TAKEN_BACK = 'taken back'

export async function endWebhook(app: App, id: string, because: string): Promise<void> {
  const [ended] = await app.db
    .update(webhook)
    .set({ endedAt: app.now(), endedBecause: because })
    .where(eq(webhook.id, id))
    .returning({ id: webhook.id })
  if (!ended) throw notFound('webhook')
  const { to, where } = moving(webhookDelivery.state, DELIVERY, 'give up')
  await app.db
    .update(webhookDelivery)
    .set({ state: to, said: because, endedAt: app.now() })
    .where(and(eq(webhookDelivery.webhookId, id), where))
}

const LOGGED = 200

/** What it was told lately and what waits, the newest act first. */
export async function deliveriesOf(
  app: App,
  by: Person,
  id: string,
): Promise<v.InferOutput<typeof deliverySchema>[]> {
  await requireMay(app, by, 'settings')
  const rows = await app.db
    .select({ delivery: webhookDelivery, act: trail.act, number: agreement.number })
    .from(webhookDelivery)
    .innerJoin(
      trail,
      and(eq(trail.agreementId, webhookDelivery.agreementId), eq(trail.seq, webhookDelivery.seq)),
    )
    .innerJoin(agreement, eq(agreement.id, webhookDelivery.agreementId))
    .where(eq(webhookDelivery.webhookId, id))
    .orderBy(desc(webhookDelivery.id))
    .limit(LOGGED)
  return rows.map(({ delivery, act, number }) => ({
    id: delivery.id,
    agreement: delivery.agreementId,
    number,
    seq: delivery.seq,
    act,
    state: delivery.state,
    tries: delivery.tries,
    at: delivery.at.toISOString(),
    status: delivery.status,
    said: delivery.said,
    endedAt: iso(delivery.endedAt),
  }))
}

/** Has one told again, whatever became of it: with the same id, so that whoever knows it already passes it over. */
export async function resendEvent(app: App, by: Person, id: string, delivery: number): Promise<void> {
  await requireMay(app, by, 'settings')
  const [hook] = await app.db.select().from(webhook).where(eq(webhook.id, id))
  if (!hook) throw notFound('webhook')
  if (hook.endedAt) throw conflict(`It is not told any more: ${hook.endedBecause ?? ''}.`)
  const { to, where } = moving(webhookDelivery.state, DELIVERY, 'again')
  const again = await app.db
    .update(webhookDelivery)
    .set({ state: to, tries: 0, at: app.now(), dueAt: app.now(), endedAt: null })
    .where(and(eq(webhookDelivery.id, delivery), eq(webhookDelivery.webhookId, id), where))
    .returning({ id: webhookDelivery.id })
  if (again.length === 0) throw notFound('delivery')
  await app.db.update(webhook).set({ triedAgainAt: null }).where(eq(webhook.id, id))
}

/** Tries an address now instead of when its turn would come. */
export async function tellNow(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'settings')
  if (!(await wake(app, id))) throw notFound('webhook')
}

/** Nothing that one is to be told waits for its pause any more; false: it is not there, or told nothing more. */
export async function wake(app: App, id: string, more: Partial<Hook> = {}): Promise<boolean> {
  const found = await app.db
    .update(webhook)
    .set({ ...more, triedAgainAt: null })
    .where(and(eq(webhook.id, id), isNull(webhook.endedAt)))
    .returning({ id: webhook.id })
  if (found.length === 0) return false
  await app.db
    .update(webhookDelivery)
    .set({ dueAt: app.now() })
    .where(and(eq(webhookDelivery.webhookId, id), eq(webhookDelivery.state, 'waiting')))
  return true
}

/** Milliseconds that the log of what was told is kept. */
const KEPT = 90 * 86_400_000

/** Forgets what was told long ago; what waits stays. */
export async function forgetTold(app: App): Promise<void> {
  const old = new Date(app.now().getTime() - KEPT)
  await app.db
    .delete(webhookDelivery)
    .where(and(sql`${webhookDelivery.state} <> 'waiting'`, lt(webhookDelivery.endedAt, old)))
}
