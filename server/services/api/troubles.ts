import { and, desc, eq, gt, gte, isNotNull, isNull, lt, ne, or } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { troubleSchema } from '#contract/program.ts'
import { TOLD_AFTER } from '#core/connection/kinds.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { START } from '#core/states/all.ts'
import { moving } from '#server/db/moving.ts'
import { apiKey, connection, person, start, webhook } from '#server/db/schema.ts'
import { conflict, forbidden, notFound } from '#server/ground/problem.ts'
import { enqueueEmail } from '#server/services/agreements/mails.ts'
import { TAKEN_BACK } from '../webhooks/webhooks.ts'

// What goes wrong between programs and here, told to people: on the desk, by mail, with what can be done.

/** Milliseconds that what has ended stays on the desk; and that something is silent before its maker is written to. */
const SHOWN = 7 * 86_400_000
const SILENT = 3_600_000

type Trouble = v.InferOutput<typeof troubleSchema>

/** Customer systems that cannot be read, addresses that do not answer, and starts that were taken and could not be made: of those who see to them. */
export async function troublesOf(app: App, by: Person): Promise<Trouble[]> {
  const since = new Date(app.now().getTime() - SHOWN)
  const all = by.rights.includes('settings')
  const hooks = await app.db
    .select()
    .from(webhook)
    .where(
      and(
        all ? undefined : eq(webhook.createdBy, by.id),
        or(
          and(isNull(webhook.endedAt), isNotNull(webhook.silentSince)),
          and(gt(webhook.endedAt, since), ne(webhook.endedBecause, TAKEN_BACK)),
        ),
      ),
    )
  const starts = await app.db
    .select({ start, key: apiKey.name })
    .from(start)
    .innerJoin(apiKey, eq(apiKey.id, start.keyId))
    .where(
      and(eq(start.state, 'refused'), gt(start.endedAt, since), all ? undefined : eq(apiKey.personId, by.id)),
    )
    .orderBy(desc(start.endedAt))
    .limit(50)
  const systems = await app.db
    .select()
    .from(connection)
    .where(
      and(
        isNull(connection.endedAt),
        gte(connection.failures, TOLD_AFTER),
        all ? undefined : eq(connection.ownerId, by.id),
      ),
    )
  return [
    ...systems.map(({ id, name, pulledAt, createdAt, problem }): Trouble => ({
      kind: 'connection',
      id,
      name,
      since: (pulledAt ?? createdAt).toISOString(),
      problem: problem ?? '',
      again: true,
    })),
    ...hooks.map((hook): Trouble => ({
      kind: 'webhook',
      id: hook.id,
      name: hook.name,
      since: (hook.endedAt ?? hook.silentSince!).toISOString(),
      problem: hook.endedBecause ?? 'It does not answer.',
      again: hook.endedAt === null,
    })),
    ...starts.map(({ start: { id, endedAt, problems }, key }): Trouble => ({
      kind: 'start',
      id,
      name: key,
      since: endedAt!.toISOString(),
      problem: problems[0]?.message ?? '',
      again: true,
    })),
  ]
}

/** Has what could not be made be made again; only of what was refused, and by those who see to it. */
export async function startAgain(app: App, by: Person, id: string): Promise<void> {
  await transaction(app, async ({ db, enqueue }) => {
    const [found] = await db
      .select({ state: start.state, person: apiKey.personId })
      .from(start)
      .innerJoin(apiKey, eq(apiKey.id, start.keyId))
      .where(eq(start.id, id))
      .for('update', { of: start })
    if (!found) throw notFound('start')
    if (found.person !== by.id && !by.rights.includes('settings'))
      throw forbidden('It was started in somebody else’s name.')
    if (found.state !== 'refused') throw conflict(`It is ${found.state}; there is nothing to do again.`)
    const { to, where } = moving(start.state, START, 'again')
    await db
      .update(start)
      .set({ state: to, tries: 0, problems: [], endedAt: null })
      .where(and(eq(start.id, id), where))
    await enqueue('make-starts', {})
  })
}

/** Writes to whoever had a program told that does not answer: once for each silence, after an hour of it. */
export async function tellOfSilence(app: App): Promise<void> {
  const silent = await app.db
    .select({ hook: webhook, to: person })
    .from(webhook)
    .innerJoin(person, eq(person.id, webhook.createdBy))
    .where(
      and(
        isNull(webhook.endedAt),
        lt(webhook.silentSince, new Date(app.now().getTime() - SILENT)),
        isNull(person.leftAt),
      ),
    )
  for (const { hook, to } of silent)
    await transaction(app, (work) =>
      enqueueEmail(work, {
        key: `silent:${hook.id}:${hook.silentSince!.toISOString()}`,
        agreementId: null,
        to: to.email,
        subject: `${hook.name} does not answer`,
        body: {
          greeting: `${to.name},`,
          paragraphs: [
            `${hook.name} (${hook.url}) has not answered for an hour. What it is to be told waits for three days, and is tried again with growing pauses.`,
          ],
          link: { label: 'See what it was told', url: `${work.settings.publicUrl}/settings/programs` },
          attachment: null,
          foot: 'Programs that are told of what happens',
        },
      }),
    )
}
