import { createHmac } from 'node:crypto'
import { and, asc, eq, isNull, lte, or, sql } from 'drizzle-orm'
import { cut } from '#core/text/cut.ts'
import { eventOf } from '#core/trail/events.ts'
import { pauseAfter } from '#core/trail/telling.ts'
import type { App } from '#server/app/app.ts'
import { isFree } from '#server/db/held.ts'
import { DELIVERY } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { one } from '#server/db/one.ts'
import { agreement, trail, webhook, webhookDelivery } from '#server/db/schema.ts'
import { type CalledOut, callOut } from '#server/outside/call-out.ts'
import { endWebhook, wake } from './webhooks.ts'

// What programs are to be told is told: each act as an event (CloudEvents 1.0), signed (Standard Webhooks), in order per agreement.

type Hook = typeof webhook.$inferSelect

/** Milliseconds that a worker has a webhook to itself before it has to say so again. */
const HELD = 60_000
/** Milliseconds after which an act that could not be told is given up. */
const THREE_DAYS = 3 * 86_400_000
/** Acts told to one webhook before the next one's turn. */
const TURN = 100

/** Tells what is due, one webhook after the other; each by one worker at a time, or its order would be lost. */
export async function tellWebhooks(app: App): Promise<void> {
  const due = await app.db
    .selectDistinct({ id: webhook.id })
    .from(webhook)
    .innerJoin(
      webhookDelivery,
      and(eq(webhookDelivery.webhookId, webhook.id), eq(webhookDelivery.state, 'waiting')),
    )
    .where(
      and(
        isNull(webhook.endedAt),
        or(isNull(webhook.triedAgainAt), lte(webhook.triedAgainAt, app.now())),
        lte(webhookDelivery.dueAt, app.now()),
      ),
    )
  await Promise.all(due.map(({ id }) => tellOne(app, id)))
}

/** Takes a webhook for a while; null: another worker has it. */
async function hold(app: App, id: string): Promise<Hook | null> {
  const now = app.now()
  const [held] = await app.db
    .update(webhook)
    .set({ heldUntil: new Date(now.getTime() + HELD) })
    .where(and(eq(webhook.id, id), isNull(webhook.endedAt), isFree(webhook, now)))
    .returning()
  return held ?? null
}

async function tellOne(app: App, id: string): Promise<void> {
  const hook = await hold(app, id)
  if (!hook) return
  try {
    if (hook.silentSince) await giveUp(app, hook.id, hook.silentSince)
    for (let i = 0; i < TURN; i++) {
      const next = await nextOf(app, id)
      if (!next) return
      const answered = await send(app, hook, next)
      if (!(await settle(app, hook, next, answered))) return
      await app.db
        .update(webhook)
        .set({ heldUntil: new Date(app.now().getTime() + HELD) })
        .where(eq(webhook.id, id))
    }
  } finally {
    await app.db.update(webhook).set({ heldUntil: null }).where(eq(webhook.id, id))
  }
}

/** What waited three days for one that has been silent as long is given up as a whole: it would take weeks one by one. */
async function giveUp(app: App, id: string, silentSince: Date): Promise<void> {
  const now = app.now()
  const long = new Date(now.getTime() - THREE_DAYS)
  if (silentSince > long) return
  const { to, where } = moving(webhookDelivery.state, DELIVERY, 'give up')
  await app.db
    .update(webhookDelivery)
    .set({ state: to, said: 'Nobody answered for three days.', endedAt: now })
    .where(and(eq(webhookDelivery.webhookId, id), where, lte(webhookDelivery.at, long)))
}

type Delivery = typeof webhookDelivery.$inferSelect

/** The next act to tell: none of an agreement before the one that happened before it. */
async function nextOf(app: App, id: string): Promise<Delivery | null> {
  const [found] = await app.db
    .select()
    .from(webhookDelivery)
    .where(
      and(
        eq(webhookDelivery.webhookId, id),
        eq(webhookDelivery.state, 'waiting'),
        lte(webhookDelivery.dueAt, app.now()),
        sql`not exists (
          select from ${webhookDelivery} as earlier
          where earlier.webhook_id = ${id} and earlier.state = 'waiting'
            and earlier.agreement_id = ${webhookDelivery.agreementId} and earlier.seq < ${webhookDelivery.seq})`,
      ),
    )
    .orderBy(asc(webhookDelivery.id))
    .limit(1)
  return found ?? null
}

async function send(app: App, hook: Hook, { agreementId, seq }: Delivery): Promise<CalledOut> {
  const found = one(
    await app.db
      .select({ entry: trail, number: agreement.number, name: agreement.name })
      .from(trail)
      .innerJoin(agreement, eq(agreement.id, trail.agreementId))
      .where(and(eq(trail.agreementId, agreementId), eq(trail.seq, seq))),
  )
  const { entry, number, name } = found
  const event = eventOf(app.settings.publicUrl, { id: agreementId, number, name }, entry)
  return postEvent(app, hook, event)
}

/** Sends one event to a program: structured CloudEvents 1.0, signed by the scheme of Standard Webhooks. */
export function postEvent(
  app: App,
  { url, secret }: Pick<Hook, 'url' | 'secret'>,
  event: { readonly id: string },
): Promise<CalledOut> {
  const body = JSON.stringify(event)
  const at = Math.floor(app.now().getTime() / 1000)
  return callOut({
    url,
    method: 'POST',
    headers: {
      'content-type': 'application/cloudevents+json; charset=utf-8',
      'user-agent': 'Brevan',
      'webhook-id': event.id,
      'webhook-timestamp': String(at),
      'webhook-signature': signatureOf(app.secrets.open(secret), event.id, at, body),
    },
    body,
    inner: app.settings.inner,
  })
}

/** Standard Webhooks: HMAC-SHA-256 over id, seconds and body, with the secret’s bytes. */
export const signatureOf = (secret: string, id: string, at: number, body: string): string =>
  `v1,${createHmac('sha256', Buffer.from(secret.replace(/^whsec_/, ''), 'base64'))
    .update(`${id}.${at}.${body}`)
    .digest('base64')}`

/** Writes down what came of it; answers whether the next one is to be told now. */
async function settle(app: App, hook: Hook, one: Delivery, answered: CalledOut): Promise<boolean> {
  const now = app.now()
  const status = answered.ok ? answered.status : null
  const said = cut((answered.ok ? answered.said : answered.why).replaceAll('\0', ''), 500)
  const told = status !== null && status >= 200 && status < 300
  const late = now.getTime() - one.at.getTime() >= THREE_DAYS
  const tries = one.tries + 1
  const { to, where } = moving(webhookDelivery.state, DELIVERY, told ? 'tell' : 'give up')
  await app.db
    .update(webhookDelivery)
    .set({
      tries,
      status,
      said,
      dueAt: new Date(now.getTime() + pauseAfter(tries)),
      ...(told || late ? { state: to, endedAt: now } : {}),
    })
    .where(and(eq(webhookDelivery.id, one.id), where))
  if (told) {
    // It is back: what waits has its turn now.
    if (hook.failures > 0) await wake(app, hook.id, { failures: 0, silentSince: null })
    hook.failures = 0
    return true
  }
  // Gone for good (RFC 9110, 15.5.11): Standard Webhooks has it ended.
  if (status === 410) {
    await endWebhook(app, hook.id, 'it answered that it is gone (410)')
    return false
  }
  // Refused is this one act alone; what does not answer at all would not take the next one either.
  if (status !== null && status < 500 && status !== 408 && status !== 429) return true
  const failures = hook.failures + 1
  await app.db
    .update(webhook)
    .set({
      failures,
      silentSince: hook.silentSince ?? now,
      triedAgainAt: new Date(now.getTime() + pauseAfter(failures)),
    })
    .where(eq(webhook.id, hook.id))
  return false
}
