import { randomBytes, randomUUID } from 'node:crypto'
import { and, eq, sql } from 'drizzle-orm'
import type * as v from 'valibot'
import type { openLinkWish } from '#contract/intake.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { openLink } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { conflict, notFound } from '#server/ground/problem.ts'
import { formRow, mustUse } from './forms.ts'
import { formUrl } from './link-list.ts'

type Wish = v.InferOutput<typeof openLinkWish>

const kept = ({ name, closesAt, mostAnswers, perHour, origins }: Wish) => ({
  name,
  closesAt: closesAt === null ? null : new Date(closesAt),
  mostAnswers,
  perHour,
  origins: [...new Set(origins)],
})

/** Gives a form a public address. */
export async function openForm(app: App, by: Person, formId: string, wish: Wish) {
  await requireMay(app, by, 'runs')
  const form = await formRow(app, formId)
  await mustUse(app, by, form)
  if (form.archivedAt) throw conflict('This form was put away.')
  const id = randomUUID()
  // Not to be guessed: a form that nobody was told of is found by nobody.
  const token = randomBytes(16).toString('base64url')
  await app.db.insert(openLink).values({
    id,
    formId,
    token: app.secrets.seal(token),
    tokenHash: sha256(token),
    madeAt: app.now(),
    madeBy: by.id,
    ...kept(wish),
  })
  return { id, url: formUrl(app, token) }
}

/** Changes what a public address allows, or closes it. */
export async function saveLink(
  app: App,
  by: Person,
  formId: string,
  id: string,
  { closed, ...wish }: Wish & { readonly closed: boolean },
): Promise<void> {
  await requireMay(app, by, 'runs')
  await mustUse(app, by, await formRow(app, formId))
  const saved = await app.db
    .update(openLink)
    .set({
      ...kept(wish),
      closedAt: closed ? sql`coalesce(${openLink.closedAt}, ${app.now().toISOString()}::timestamptz)` : null,
    })
    .where(and(eq(openLink.id, id), eq(openLink.formId, formId)))
    .returning({ id: openLink.id })
  if (!saved.length) throw notFound('link')
}

/** Origins of pages that may show the form behind a token in a frame; of anything else none may. */
export async function framedBy(app: App, token: string): Promise<readonly string[]> {
  const [found] = await app.db
    .select({ origins: openLink.origins })
    .from(openLink)
    .where(eq(openLink.tokenHash, sha256(token)))
  return found?.origins ?? []
}
