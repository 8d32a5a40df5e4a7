import { randomUUID } from 'node:crypto'
import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { intakeDetail, intakeSave, intakeStart, intakeSummary } from '#contract/intake.ts'
import type { Person } from '#contract/person.ts'
import type { Field, Outline } from '#core/outline/field.ts'
import type { IntakeForm } from '#core/intake/form.ts'
import { formFrom } from '#core/intake/made.ts'
import { type FormProblem, formProblems } from '#core/intake/problems.ts'
import { languageOf } from '#core/languages/language.ts'
import { type Bundle, bundleConflicts, bundleFields } from '#core/packet/bundle.ts'
import { cut } from '#core/text/cut.ts'
import { type Actor, requireMay } from '#server/app/actor.ts'
import type { App, Ground } from '#server/app/app.ts'
import { transaction } from '#server/app/transaction.ts'
import { one } from '#server/db/one.ts'
import { intakeAnswer, intakeForm, openLink, packet, person, template } from '#server/db/schema.ts'
import { conflict, invalid, notFound, Refusal } from '#server/ground/problem.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { toPerson } from '#server/services/installation/people.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import { chosenBundle, packetTemplates } from '#server/services/templates/editions.ts'
import { requireShelf } from '#server/services/templates/shelves.ts'
import { linksOf } from './link-list.ts'

/** A form as its row has it. */
export type FormRow = typeof intakeForm.$inferSelect

/** What each agreement of an answer is made of: a template, or a packet. */
export const targetsOf = ({ templateIds, packetId }: Pick<FormRow, 'templateIds' | 'packetId'>) =>
  packetId ? [{ packetId }] : templateIds.map((templateId) => ({ templateId }))

/** Every value that all the agreements of an answer need, each once. Refused where the templates do not go together. */
async function outlineOf(
  app: App,
  by: Person,
  made: Pick<FormRow, 'templateIds' | 'packetId'>,
): Promise<{ outline: Outline; bundle: Bundle; parts: readonly Outline[] }> {
  const bundles = []
  for (const target of targetsOf(made)) bundles.push((await chosenBundle(app, by, target)).bundle)
  const parts = bundles.flatMap((each) => each.parts)
  const [first, ...others] = parts
  if (!first) throw invalid('Name a template or a packet.')
  const bundle: Bundle = { parts: [first, ...others] }
  const [clash] = bundleConflicts(bundle)
  if (clash) throw invalid(clash)
  return { outline: bundleFields(bundle), bundle, parts: bundles.map(bundleFields) }
}

/** In whose name a form works, as an actor that is no more than that. */
export async function ownerOf(ground: Ground, { ownerId, content }: FormRow): Promise<Actor> {
  const found = one(await ground.db.select().from(person).where(eq(person.id, ownerId)))
  return { ...toPerson(found), via: { kind: 'form', title: content.title } }
}

/** A form with the fields that it fills; what keeps it from being made into agreements is told, and asks for nothing. */
export async function askedOf(
  app: App,
  row: FormRow,
): Promise<{ form: IntakeForm; outline: Outline; problems: readonly FormProblem[] }> {
  const form = row.content
  try {
    const { outline } = await outlineOf(app, await ownerOf(app, row), row)
    return { form, outline, problems: formProblems(form, outline) }
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    return { form, outline: [], problems: [{ question: null, message: error.message }] }
  }
}

/** One of them. Refused where there is none. */
export async function formRow(app: App, id: string): Promise<FormRow> {
  const [found] = await app.db.select().from(intakeForm).where(eq(intakeForm.id, id))
  if (!found) throw notFound('intake form')
  return found
}

/** Makes a form in one step: every value that its agreements need becomes a question, asked once. */
export async function makeForm(
  app: App,
  by: Person,
  wish: v.InferOutput<typeof intakeStart>,
): Promise<{ id: string }> {
  await requireMay(app, by, 'templates')
  if ((wish.packet === null) === (wish.templates.length === 0)) throw invalid('Name templates or a packet.')
  const of = { templateIds: [...new Set(wish.templates)], packetId: wish.packet }
  const { outline, bundle, parts } = await outlineOf(app, by, of)
  const organisation = await organisationOf(app.db)
  const names = await namesOf(app, of)
  const content = formFrom({
    title: wish.title ?? cut(names.packet?.name ?? names.templates.map(({ name }) => name).join(', '), 200),
    language: languageOf(organisation.language),
    outline,
    parts,
    roles: bundle.parts.flatMap(({ content: each }) => each.roles),
    customer: await fieldsOf(app.db, 'customer'),
    own: organisation.synonyms,
  })
  const id = randomUUID()
  const now = app.now()
  await app.db.insert(intakeForm).values({
    id,
    ...of,
    content,
    ownerId: by.id,
    createdAt: now,
    changedAt: now,
    changedBy: by.id,
  })
  return { id }
}

async function namesOf(app: App, { templateIds, packetId }: Pick<FormRow, 'templateIds' | 'packetId'>) {
  const [found] = packetId ? await app.db.select().from(packet).where(eq(packet.id, packetId)) : []
  const all = await app.db.select({ id: template.id, name: template.name }).from(template)
  const byId = new Map(all.map((each) => [each.id, each]))
  return {
    packet: packetId ? { id: packetId, name: found?.name ?? 'a packet that is gone' } : null,
    templates: (found?.templates ?? templateIds).flatMap((id) => byId.get(id) ?? []),
  }
}

/** All forms, with what waits in each. */
export async function listForms(app: App): Promise<v.InferOutput<typeof intakeSummary>[]> {
  const counted = (what: ReturnType<typeof sql>) =>
    sql<number>`(select count(*)::int from ${intakeAnswer} where ${intakeAnswer.formId} = ${intakeForm.id} and ${what})`
  const rows = await app.db
    .select({
      row: intakeForm,
      answers: counted(sql`${intakeAnswer.handedInAt} is not null`),
      waiting: counted(sql`(${intakeAnswer.state} = 'needs a hand' or ${intakeAnswer.outcome} = 'changed')`),
      open: sql<number>`(select count(*)::int from ${openLink} where ${openLink.formId} = ${intakeForm.id}
        and ${openLink.closedAt} is null and (${openLink.closesAt} is null or ${openLink.closesAt} > ${app.now().toISOString()}::timestamptz))`,
    })
    .from(intakeForm)
    .where(isNull(intakeForm.archivedAt))
    .orderBy(desc(intakeForm.changedAt))
  const told = []
  for (const { row, answers, waiting, open } of rows) {
    const names = await namesOf(app, row)
    const { problems } = await askedOf(app, row)
    told.push({
      id: row.id,
      title: row.content.title,
      makes: names.packet ? [names.packet.name] : names.templates.map(({ name }) => name),
      changedAt: row.changedAt.toISOString(),
      answers,
      waiting,
      open,
      problem: problems[0]?.message ?? null,
    })
  }
  return told
}

/** One form as it is worked on, with what is wrong with it. */
export async function readForm(app: App, id: string): Promise<v.InferOutput<typeof intakeDetail>> {
  const row = await formRow(app, id)
  const { outline, problems } = await askedOf(app, row)
  const people = await app.db.select({ id: person.id, name: person.name }).from(person)
  const named = (who: string) => people.find((each) => each.id === who)?.name ?? ''
  const ofKind = async (kind: 'customer' | 'contact' | 'deal') =>
    [...(await fieldsOf(app.db, kind))] as Field[]
  return {
    id,
    content: row.content,
    version: row.version,
    changedAt: row.changedAt.toISOString(),
    changedBy: named(row.changedBy),
    owner: { id: row.ownerId, name: named(row.ownerId) },
    makes: await namesOf(app, row),
    outline: [...outline],
    recordFields: {
      customer: await ofKind('customer'),
      contact: await ofKind('contact'),
      deal: await ofKind('deal'),
    },
    problems: problems.map((each) => ({ ...each })),
    links: await linksOf(app, id),
  }
}

/** Keeps a form as it is given; one that somebody changed since is not overwritten. What is wrong with it is told. */
export async function saveForm(app: App, by: Person, id: string, save: v.InferOutput<typeof intakeSave>) {
  await requireMay(app, by, 'templates')
  const row = await formRow(app, id)
  if (row.archivedAt) throw conflict('This form was put away.')
  await mustUse(app, by, row)
  const content = save.content as IntakeForm
  const [saved] = await app.db
    .update(intakeForm)
    .set({
      content,
      version: sql`${intakeForm.version} + 1`,
      changedAt: app.now(),
      changedBy: by.id,
    })
    .where(and(eq(intakeForm.id, id), eq(intakeForm.version, save.version)))
    .returning()
  if (!saved)
    throw conflict('Somebody changed this form after you opened it. Open it again to see the other change.')
  const { problems } = await askedOf(app, saved)
  return { version: saved.version, problems: problems.map((each) => ({ ...each })) }
}

/** Takes a form over: its agreements are made in the name of whoever does, who has to be allowed to make them. */
export async function takeOver(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'templates')
  const row = await formRow(app, id)
  await outlineOf(app, by, row)
  await app.db.update(intakeForm).set({ ownerId: by.id }).where(eq(intakeForm.id, id))
}

/** Refuses what leads to agreements to whoever’s teams may not use their templates. */
export async function mustUse(app: App, by: Person, { templateIds, packetId }: FormRow): Promise<void> {
  await requireShelf(app.db, by, packetId ? await packetTemplates(app, packetId) : templateIds)
}

/** Puts a form away: nobody can begin or hand in an answer any more. */
export async function dropForm(app: App, by: Person, id: string): Promise<void> {
  await requireMay(app, by, 'templates')
  await mustUse(app, by, await formRow(app, id))
  await transaction(app, async ({ db, now }) => {
    await db.update(intakeForm).set({ archivedAt: now() }).where(eq(intakeForm.id, id))
    await db
      .update(openLink)
      .set({ closedAt: now() })
      .where(and(eq(openLink.formId, id), isNull(openLink.closedAt)))
  })
}
