import { timingSafeEqual } from 'node:crypto'
import { eq } from 'drizzle-orm'
import type { IncomingHttpHeaders } from 'node:http'
import type { App } from '#server/app/app.ts'
import { connection } from '#server/db/schema.ts'
import { NONE } from '#server/ground/secrets.ts'
import { Refusal } from '#server/ground/problem.ts'
import { signatureOf } from '#server/services/webhooks/telling.ts'
import { pullSoon } from './connections.ts'

/** Seconds that a call's own time may differ from ours (Standard Webhooks). */
const TOLERANCE = 300

/** A customer system says that something changed: it is read soon. What it says is looked at no further than its signature. */
export async function heardFrom(
  app: App,
  id: string,
  headers: IncomingHttpHeaders,
  body: Buffer,
): Promise<void> {
  const [row] = await app.db.select().from(connection).where(eq(connection.id, id))
  const named = (name: string) => String(headers[name] ?? '')
  const at = Number(named('webhook-timestamp'))
  const near = Math.abs(app.now().getTime() / 1000 - at) <= TOLERANCE
  const expected = Buffer.from(
    signatureOf(app.secrets.open(row?.hookSecret ?? NONE), named('webhook-id'), at, body.toString('utf8')),
  )
  const signed = named('webhook-signature')
    .split(' ')
    .map((each) => Buffer.from(each))
    .some((each) => each.length === expected.length && timingSafeEqual(each, expected))
  // The same answer whatever is wrong: nobody learns whether there is such a connection.
  if (!row || row.endedAt || !near || !signed)
    throw new Refusal(401, 'Not signed', 'This call is not signed as it should be.')
  await pullSoon(app, id)
}
