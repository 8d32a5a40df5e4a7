import { eq, inArray } from 'drizzle-orm'
import type { RouteName } from '#contract/api.ts'
import type { Person } from '#contract/person.ts'
import type { Route } from '#contract/route.ts'
import type { App } from '#server/app/app.ts'
import { agreement, edition, run } from '#server/db/schema.ts'
import { requireShelf } from '#server/services/templates/shelves.ts'

type Params = Readonly<Record<string, string>>

/** Acts whose right comes from elsewhere: approvals go by post, and whoever may read may say that they have read. */
const BY_OTHER_RIGHTS: ReadonlySet<RouteName> = new Set([
  'decide',
  'askQuestion',
  'handOverStep',
  'tickWording',
])

/** What an address names, and the templates behind it. Every act at such an address is asked about here, new ones too. */
const GUARDED: readonly (readonly [
  path: RegExp,
  templates: (app: App, params: Params) => Promise<readonly string[]>,
])[] = [
  [/^\/runs\/:id/, (app, { id }) => templatesOfRun(app, id!)],
  [/^(\/v1)?\/agreements\/:id/, (app, { id }) => templatesOfAgreement(app, id!)],
  [/^\/sheets\/:id\/mappings\/:template/, (_app, { template }) => Promise.resolve([template!])],
]

/** Refuses whoever may not use the templates that an act is about: the one place where that is asked for runs and agreements. */
export async function guardShelf(
  app: App,
  name: RouteName,
  route: Route,
  person: Person | null,
  params: unknown,
): Promise<void> {
  if (!person || route.method === 'GET' || BY_OTHER_RIGHTS.has(name)) return
  const guarded = GUARDED.find(([path]) => path.test(route.path))
  if (guarded) await requireShelf(app.db, person, await guarded[1](app, params as Params))
}

async function templatesOfRun(app: App, id: string): Promise<readonly string[]> {
  const [found] = await app.db
    .select({ first: run.editionId, packet: run.packetEditions })
    .from(run)
    .where(eq(run.id, id))
  return found ? templatesOf(app, [found.first, ...found.packet]) : []
}

async function templatesOfAgreement(app: App, id: string): Promise<readonly string[]> {
  const [found] = await app.db
    .select({ first: agreement.editionId, packet: agreement.packetEditions })
    .from(agreement)
    .where(eq(agreement.id, id))
  return found ? templatesOf(app, [found.first, ...found.packet]) : []
}

async function templatesOf(app: App, editions: readonly string[]): Promise<readonly string[]> {
  const found = await app.db
    .selectDistinct({ id: edition.templateId })
    .from(edition)
    .where(inArray(edition.id, [...editions]))
  return found.map(({ id }) => id)
}
