import { and, eq } from 'drizzle-orm'
import type * as v from 'valibot'
import type { askedSchema, askWish } from '#contract/program.ts'
import { readGroup } from '#core/mapping/apply.ts'
import { nestedColumns, nestedRows } from '#core/mapping/nested.ts'
import { jsonSchemaOf } from '#core/outline/json-schema.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { intakeAnswer } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { invalidAt, notFound } from '#server/ground/problem.ts'
import { askedOf, formRow, listForms } from '#server/services/intakes/forms.ts'
import { invite } from '#server/services/intakes/inviting.ts'
import type { Caller } from './keys.ts'
import { usedBefore } from './starts.ts'

// Intakes that programs start: a person is asked, with what the program knows of them in place.

/** Forms that people can be asked to answer, with what can be given for each. */
export const formViews = async (app: App) =>
  (await listForms(app)).map(({ id, title, makes }) => ({ id, title, makes }))

export async function formView(app: App, id: string) {
  const row = await formRow(app, id)
  if (row.archivedAt) throw notFound('intake form')
  const { form, outline } = await askedOf(app, row)
  // What is given is where the form begins: nothing of it is needed.
  const schema = jsonSchemaOf(outline.map((field) => ({ ...field, required: false })))
  return {
    id,
    title: form.title,
    schema: { $schema: 'https://json-schema.org/draft/2020-12/schema', ...schema },
  }
}

const addressOf = (id: string): string => `/api/v1/answers/${id}`

/** Asks one person to answer; the same reference again is the same asking, whose link has gone out already. */
export async function askOne(
  app: App,
  { key, person }: Caller,
  formId: string,
  wish: v.InferOutput<typeof askWish>,
  reference: string,
): Promise<v.InferOutput<typeof askedSchema>> {
  await requireMay(app, person, 'runs')
  const asked = sha256(JSON.stringify([formId, wish]))
  const known = async () => {
    const [found] = await app.db
      .select()
      .from(intakeAnswer)
      .where(and(eq(intakeAnswer.keyId, key.id), eq(intakeAnswer.reference, reference)))
    if (found && found.asked !== asked) throw usedBefore()
    return found
  }
  const before = await known()
  if (before) return { id: before.id, at: addressOf(before.id), url: null }
  const { data, ...who } = wish
  const { outline } = await askedOf(app, await formRow(app, formId))
  const { rows, problems: shape, pointerTo } = nestedRows(outline, data, '/data')
  const { columns, mapping } = nestedColumns(outline)
  const read = readGroup(outline, columns, mapping, rows)
  const wrong = read.problems
    // What is not given is asked for.
    .filter(({ kind, cell }) => kind !== undefined || cell !== undefined)
    .map((problem) => ({ pointer: pointerTo(problem), message: problem.message }))
  if (shape.length || wrong.length) throw invalidAt([...shape, ...wrong])
  try {
    const { id, url } = await invite(app, person, formId, who, {
      given: read.data,
      called: { keyId: key.id, reference, asked },
    })
    return { id, at: addressOf(id), url }
  } catch (error) {
    // Asked twice at once: the other's counts.
    const other = await known()
    if (!other) throw error
    return { id: other.id, at: addressOf(other.id), url: null }
  }
}

/** How an answer stands that this key asked for; another's is not found. */
export async function questionViews(app: App, { key }: Caller, id: string) {
  const [found] = await app.db
    .select()
    .from(intakeAnswer)
    .where(and(eq(intakeAnswer.id, id), eq(intakeAnswer.keyId, key.id)))
  if (!found) throw notFound('answer')
  return {
    id,
    state: found.state,
    handedInAt: found.handedInAt?.toISOString() ?? null,
    record: found.recordId,
    agreements: found.agreementIds,
  }
}
