import { and, eq, inArray, isNull, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { aftermathSave, aftermathSchema } from '#contract/next-steps.ts'
import type { Person } from '#contract/person.ts'
import { namedIn, stepProblems } from '#core/next-steps/problems.ts'
import type { Step } from '#core/next-steps/steps.ts'
import type { Field, Outline } from '#core/outline/field.ts'
import type { Bundle } from '#core/packet/bundle.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { aftermath, folder, packet, person, template, webhook } from '#server/db/schema.ts'
import { conflict, notFound, Refusal } from '#server/ground/problem.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import { chosenBundle } from '#server/services/templates/editions.ts'
import { listTemplates } from '#server/services/templates/templates.ts'

/** What the list follows: a template, or a packet. */
export type Of = { readonly kind: 'template' | 'packet'; readonly id: string }

async function bundleFor(app: App, by: Person, { kind, id }: Of): Promise<Bundle | null> {
  try {
    const { bundle } = await chosenBundle(app, by, kind === 'packet' ? { packetId: id } : { templateId: id })
    return bundle
  } catch (error) {
    // Not published yet: there is nothing to say conditions over.
    if (error instanceof Refusal && error.status !== 404) return null
    throw error
  }
}

/** All that conditions and texts may name, computed values included. */
export const fieldsOfBundle = ({ parts }: Bundle): Outline => [
  ...new Map(
    parts.flatMap(({ fields }) => [...fields.values()]).map((field) => [field.name, field]),
  ).values(),
]

/** Whether nobody signs it: a packet goes as its first document does. */
const isNotice = ({ parts }: Bundle): boolean => Boolean(parts[0].content.sending.notice)

async function nameOf(app: App, { kind, id }: Of): Promise<string> {
  const [found] =
    kind === 'packet'
      ? await app.db.select({ name: packet.name }).from(packet).where(eq(packet.id, id))
      : await app.db.select({ name: template.name }).from(template).where(eq(template.id, id))
  if (!found) throw notFound(kind)
  return found.name
}

/** What steps can name: folders, programs, people, templates that can be used, fields of records. */
async function choicesFor(app: App, by: Person) {
  const [folders, programs, people] = await Promise.all([
    app.db.select({ id: folder.id, name: folder.name }).from(folder).where(isNull(folder.endedAt)),
    app.db.select({ id: webhook.id, name: webhook.name }).from(webhook).where(isNull(webhook.endedAt)),
    app.db.select({ id: person.id, name: person.name }).from(person).where(isNull(person.leftAt)),
  ])
  const templates = (await listTemplates(app, by, null)).filter(
    ({ latestEdition, may }) => latestEdition !== null && may.use,
  )
  const fields = async (kind: 'customer' | 'deal' | 'contact') =>
    [...(await fieldsOf(app.db, kind))] as Field[]
  return {
    folders,
    programs,
    people,
    templates: templates.map(({ id, name }) => ({ id, name })),
    recordFields: {
      customer: await fields('customer'),
      deal: await fields('deal'),
      contact: await fields('contact'),
    },
  }
}

export async function readList(app: App, by: Person, of: Of): Promise<v.InferOutput<typeof aftermathSchema>> {
  const name = await nameOf(app, of)
  const [found] = await app.db.select().from(aftermath).where(eq(aftermath.of, of.id))
  const bundle = await bundleFor(app, by, of)
  const outline = bundle ? fieldsOfBundle(bundle) : []
  const choices = await choicesFor(app, by)
  const steps = found?.steps ?? []
  return {
    name,
    steps: [...steps],
    version: found?.version ?? 0,
    outline: [...outline],
    choices,
    notice: bundle !== null && isNotice(bundle),
    problems: bundle
      ? stepProblems(steps, outline, namedIn(choices), isNotice(bundle)).map((each) => ({ ...each }))
      : [],
  }
}

/** Keeps a list; it holds for what reaches its moment from then on. Steps at fault are refused, each with what is wrong. */
export async function saveList(
  app: App,
  by: Person,
  of: Of,
  { steps: given, version }: v.InferOutput<typeof aftermathSave>,
): Promise<{ version: number }> {
  await requireMay(app, by, 'templates')
  await nameOf(app, of)
  const steps = given as readonly Step[]
  const bundle = await bundleFor(app, by, of)
  if (!bundle) throw conflict('Publish it first: what follows can be said of an edition.')
  const problems = stepProblems(
    steps,
    fieldsOfBundle(bundle),
    namedIn(await choicesFor(app, by)),
    isNotice(bundle),
  )
  if (problems.length)
    throw new Refusal(
      422,
      'Not sound yet',
      problems[0]!.message,
      problems.map(({ step, message }) => ({
        pointer: `/steps/${steps.findIndex(({ id }) => id === step)}`,
        detail: message,
      })),
    )
  const kept = { steps, changedAt: app.now(), changedBy: by.id }
  const saved =
    version === 0
      ? await app.db
          .insert(aftermath)
          .values({ of: of.id, ...kept })
          .onConflictDoNothing()
          .returning({ version: aftermath.version })
      : await app.db
          .update(aftermath)
          .set({ ...kept, version: sql`${aftermath.version} + 1` })
          .where(and(eq(aftermath.of, of.id), eq(aftermath.version, version)))
          .returning({ version: aftermath.version })
  if (!saved[0])
    throw conflict('Somebody changed this list after you opened it. Open it again to see the other change.')
  return { version: saved[0].version }
}

/** The lists of these templates or packets. */
export const listsOf = (app: App, ids: readonly string[]) =>
  app.db
    .select()
    .from(aftermath)
    .where(inArray(aftermath.of, [...ids]))
