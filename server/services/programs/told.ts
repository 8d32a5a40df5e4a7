import { and, asc, eq, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { programAgreementsQuery } from '#contract/program.ts'
import { jsonSchemaOf } from '#core/outline/json-schema.ts'
import { prepareTemplate } from '#core/merge/prepare.ts'
import { bundleFields } from '#core/packet/bundle.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { agreement, edition, template } from '#server/db/schema.ts'
import { invalid, notFound } from '#server/ground/problem.ts'
import { readAgreement } from '#server/services/agreements/agreements.ts'
import { sendOne } from '#server/services/signing/sending.ts'
import { mayWith, requireShelf } from '#server/services/templates/shelves.ts'
import { latestEdition, listTemplates } from '#server/services/templates/templates.ts'

// What programs are told of templates and agreements: less than people see, in words that stay.

/** Templates that agreements can be started of. */
export const templatesTold = async (app: App, by: Person) =>
  (await listTemplates(app, by, null)).flatMap(({ id, name, latestEdition: number, may }) =>
    number !== null && may.use ? [{ id, name, edition: number }] : [],
  )

/** One with what it needs. Whoever may not use it does not find it. */
export async function templateTold(app: App, by: Person, id: string) {
  const [found] = await app.db.select().from(template).where(eq(template.id, id))
  if (!found || found.oneOff || !(await mayWith(app.db, by, id)).use) throw notFound('template')
  const { number, content } = await latestEdition(app, id)
  const prepared = prepareTemplate(content)
  if (!prepared.ok) throw new Error('An edition with faults cannot have been published.')
  return {
    id,
    name: found.name,
    edition: number,
    schema: {
      $schema: 'https://json-schema.org/draft/2020-12/schema',
      ...jsonSchemaOf(bundleFields({ parts: [prepared.ready] })),
    },
  }
}

/** Milliseconds after which no transaction of ours is open any more that told an earlier time. */
const SETTLED = 30_000

const CURSOR = /^(\d{4}-\d\d-\d\dT[\d:.]+Z) ([0-9a-f-]{36})$/

/** Where the last answer ended: the instant to the microsecond, as the database has it, and the id. */
function readCursor(cursor: string): { readonly at: string; readonly id: string } {
  const found = CURSOR.exec(Buffer.from(cursor, 'base64url').toString())
  if (!found || Number.isNaN(Date.parse(found[1]!)))
    throw invalid('This is no cursor of ours. Leave it out to begin at the beginning.', [
      { pointer: '/cursor', detail: 'is no cursor' },
    ])
  return { at: found[1]!, id: found[2]! }
}

/** Agreements in the order in which they changed. What changes again while somebody turns the pages comes again later. */
export async function agreementsTold(
  app: App,
  { state, template: of, cursor, limit }: v.InferOutput<typeof programAgreementsQuery>,
) {
  const from = cursor === undefined ? null : readCursor(cursor)
  const exact = sql<string>`to_char(${agreement.changedAt} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')`
  const rows = await app.db
    .select({ row: agreement, template: template.name, exact })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .innerJoin(template, eq(template.id, edition.templateId))
    .where(
      and(
        state && eq(agreement.state, state),
        of ? eq(template.id, of) : undefined,
        from
          ? sql`(${agreement.changedAt}, ${agreement.id}) > (${from.at}::timestamptz, ${from.id}::uuid)`
          : undefined,
      ),
    )
    .orderBy(asc(agreement.changedAt), asc(agreement.id))
    .limit(limit + 1)
  const shown = rows.slice(0, limit)
  const more = rows.length > limit
  // What another transaction has still open may come with an earlier time: what is as new as that is told again.
  const settled = new Date(app.now().getTime() - SETTLED)
  const last = more ? shown.at(-1) : shown.findLast(({ row }) => row.changedAt < settled)
  return {
    agreements: shown.map(({ row, template: name }) => ({
      id: row.id,
      number: row.number,
      name: row.name,
      state: row.state,
      revision: row.revision,
      template: name,
      createdAt: row.createdAt.toISOString(),
      changedAt: row.changedAt.toISOString(),
      executed: row.executedSha256 !== null,
    })),
    next: last ? Buffer.from(`${last.exact} ${last.row.id}`).toString('base64url') : (cursor ?? null),
    more,
  }
}

/** One agreement as a program sees it. */
export async function agreementTold(app: App, by: Person, id: string) {
  const found = await readAgreement(app, by, id)
  const { number, name, state, revision, template: of, createdAt, changedAt, executed } = found
  return {
    id,
    number,
    name,
    state,
    revision,
    template: of,
    createdAt,
    changedAt,
    executed,
    parties: found.parties.map(
      ({ label, name: who, email, order, invitedAt, openedAt, signedAt, declinedAt }) => ({
        label,
        name: who,
        email,
        order,
        invitedAt,
        openedAt,
        signedAt,
        declinedAt,
      }),
    ),
    approvals: found.steps.map(({ approver, reason, state: stands }) => ({
      approver,
      reason,
      state: stands,
    })),
  }
}

/** Sends one that is ready. One that is out already, or was, stays as it is, so that a call may be made again. */
export async function sendTold(app: App, by: Person, id: string) {
  await transaction(app, async (work) => {
    const [found] = await work.db
      .select({ state: agreement.state, of: edition.templateId })
      .from(agreement)
      .innerJoin(edition, eq(edition.id, agreement.editionId))
      .where(eq(agreement.id, id))
      .for('update', { of: agreement })
    if (!found) throw notFound('agreement')
    await requireShelf(work.db, by, [found.of])
    if (['out', 'executed', 'delivered'].includes(found.state)) return
    await sendOne(app, work, by, id, { unread: true, at: null })
  })
  const [now] = await app.db.select({ state: agreement.state }).from(agreement).where(eq(agreement.id, id))
  return { id, state: now!.state }
}
