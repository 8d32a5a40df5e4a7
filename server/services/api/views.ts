import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { Person } from '#contract/person.ts'
import type { programAgreementsQuery, programRecordsQuery } from '#contract/program.ts'
import { jsonSchemaOf } from '#core/outline/json-schema.ts'
import { type Bundle, bundleFields } from '#core/packet/bundle.ts'
import type { RecordKind } from '#core/records/kinds.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { agreement, edition, record, template } from '#server/db/schema.ts'
import { notFound } from '#server/ground/problem.ts'
import { readAgreement } from '#server/services/agreements/agreements.ts'
import { sendOne } from '#server/services/signing/sending.ts'
import { mayWith, requireShelf } from '#server/services/templates/shelves.ts'
import { chosenBundle } from '#server/services/templates/editions.ts'
import { listPackets } from '#server/services/templates/packets.ts'
import { listTemplates } from '#server/services/templates/templates.ts'
import { behind, exactly, pageOf } from './paging.ts'

// What programs are told of templates and agreements: less than people see, in words that stay.

/** Templates that agreements can be started of. */
export const templateViews = async (app: App, by: Person) =>
  (await listTemplates(app, by, null)).flatMap(({ id, name, latestEdition: number, may }) =>
    number !== null && may.use ? [{ id, name, edition: number }] : [],
  )

/** One with what it needs. Whoever may not use it does not find it. */
export async function templateView(app: App, by: Person, id: string) {
  const [found] = await app.db.select().from(template).where(eq(template.id, id))
  if (!found || found.oneOff || !(await mayWith(app.db, by, id)).use) throw notFound('template')
  const { bundle, numbers } = await chosenBundle(app, by, { templateId: id })
  return { id, name: found.name, edition: numbers[0]!, schema: schemaOf(bundle) }
}

/** Packets that can be used, with the names of their documents. */
export async function packetViews(app: App, by: Person) {
  const usable = new Set((await templateViews(app, by)).map(({ id }) => id))
  return (await listPackets(app)).flatMap(({ id, name, templates, problem }) =>
    problem === null && templates.every((each) => usable.has(each.id))
      ? [{ id, name, templates: templates.map((each) => each.name) }]
      : [],
  )
}

/** One with what its documents need together. */
export async function packetView(app: App, by: Person, id: string) {
  const found = (await packetViews(app, by)).find((each) => each.id === id)
  if (!found) throw notFound('packet')
  const { bundle } = await chosenBundle(app, by, { packetId: id })
  return { ...found, schema: schemaOf(bundle) }
}

const schemaOf = (bundle: Bundle) => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  ...jsonSchemaOf(bundleFields(bundle)),
})

/** Agreements in the order in which they changed. What changes again while somebody turns the pages comes again later. */
export async function agreementViews(app: App, query: v.InferOutput<typeof programAgreementsQuery>) {
  const { state, template: of, record: about, cursor, limit } = query
  const rows = await app.db
    .select({ row: agreement, template: template.name, exact: exactly(agreement.changedAt) })
    .from(agreement)
    .innerJoin(edition, eq(edition.id, agreement.editionId))
    .innerJoin(template, eq(template.id, edition.templateId))
    .where(
      and(
        state && eq(agreement.state, state),
        of ? eq(template.id, of) : undefined,
        about ? eq(agreement.recordId, about) : undefined,
        behind(cursor, agreement.changedAt, agreement.id),
      ),
    )
    .orderBy(asc(agreement.changedAt), asc(agreement.id))
    .limit(limit + 1)
  const { shown, next, more } = pageOf(app, rows, query)
  return {
    agreements: shown.map(({ row, template: name }) => ({
      id: row.id,
      number: row.number,
      name: row.name,
      state: row.state,
      revision: row.revision,
      template: name,
      record: row.recordId,
      createdAt: row.createdAt.toISOString(),
      changedAt: row.changedAt.toISOString(),
      executed: row.executedSha256 !== null,
    })),
    next,
    more,
  }
}

/** Records of a kind in the order in which they changed, without those put away. */
export async function recordViews(
  app: App,
  kind: RecordKind,
  query: v.InferOutput<typeof programRecordsQuery>,
) {
  const { name, cursor, limit } = query
  const rows = await app.db
    .select({ row: record, exact: exactly(record.changedAt) })
    .from(record)
    .where(
      and(
        eq(record.kind, kind),
        isNull(record.archivedAt),
        name === undefined ? undefined : sql`lower(${record.name}) = lower(${name})`,
        behind(cursor, record.changedAt, record.id),
      ),
    )
    .orderBy(asc(record.changedAt), asc(record.id))
    .limit(limit + 1)
  const { shown, next, more } = pageOf(app, rows, query)
  return {
    records: shown.map(({ row }) => ({
      id: row.id,
      name: row.name,
      data: row.data,
      customer: row.customerId,
      changedAt: row.changedAt.toISOString(),
    })),
    next,
    more,
  }
}

/** One agreement as a program sees it. */
export async function agreementView(app: App, by: Person, id: string) {
  const found = await readAgreement(app, by, id)
  const { number, name, state, revision, template: of, createdAt, changedAt, executed } = found
  return {
    id,
    number,
    name,
    state,
    revision,
    template: of,
    record: found.record?.id ?? null,
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
export async function sendStarted(app: App, by: Person, id: string) {
  await requireMay(app, by, 'send')
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
    await sendOne(work, by, id, { unread: true, at: null })
  })
  const now = one(await app.db.select({ state: agreement.state }).from(agreement).where(eq(agreement.id, id)))
  return { id, state: now.state }
}
