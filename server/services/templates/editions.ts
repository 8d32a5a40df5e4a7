import { eq } from 'drizzle-orm'
import type { Person } from '#contract/person.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { senderData } from '#core/merge/fields.ts'
import { type PreparedTemplate, prepareTemplate, type ReadyTemplate } from '#core/merge/prepare.ts'
import { type Bundle, bundleConflicts } from '#core/packet/bundle.ts'
import type { App, Ground } from '#server/app/app.ts'
import { type agreement, edition, packet, type run, template } from '#server/db/schema.ts'
import { sha256 } from '#server/files/store.ts'
import { Kept } from '#server/ground/kept.ts'
import { invalid, notFound } from '#server/ground/problem.ts'
import { requireRight } from '#server/services/templates/shelves.ts'
import { latestEdition } from '#server/services/templates/templates.ts'

const byContent = new Kept<PreparedTemplate>(8)
/** Editions never change: what was prepared of one stays true. */
const byEdition = new Kept<Promise<ReadyEdition>>(12)

/** A draft prepared; stepping through rows proofs the same one many times. */
export const prepare = (content: TemplateContent): PreparedTemplate =>
  byContent.take(sha256(JSON.stringify(content)), () => prepareTemplate(content))

export interface ReadyEdition {
  readonly ready: ReadyTemplate
  readonly id: string
  readonly templateId: string
  readonly seriesId: string
}

/** A published edition that can be merged, its formats in another language where one is given. */
export function readyEdition(
  ground: Ground,
  editionId: string,
  language: string | null = null,
): Promise<ReadyEdition> {
  const key = `${ground.settings.databaseUrl} ${editionId} ${language ?? ''}`
  return byEdition.take(key, () => loadEdition(ground, editionId, language))
}

async function loadEdition(
  ground: Ground,
  editionId: string,
  language: string | null,
): Promise<ReadyEdition> {
  const [found] = await ground.db
    .select()
    .from(edition)
    .innerJoin(template, eq(template.id, edition.templateId))
    .where(eq(edition.id, editionId))
  const content = found && (language ? { ...found.edition.content, language } : found.edition.content)
  const prepared = content && prepareTemplate(content)
  // An edition with faults cannot have been published.
  if (!prepared?.ok) throw new Error(`Edition ${editionId} cannot be merged.`)
  return {
    ready: prepared.ready,
    id: editionId,
    templateId: found!.template.id,
    seriesId: found!.template.seriesId,
  }
}

const editionIds = (made: Pick<typeof run.$inferSelect, 'editionId' | 'packetEditions'>) =>
  made.packetEditions.length ? made.packetEditions : [made.editionId]

/** What a run makes of each row: its template, or all of its packet. */
export async function bundleOfRun(
  ground: Ground,
  made: Pick<typeof run.$inferSelect, 'editionId' | 'packetEditions'>,
  language: string | null = null,
): Promise<Bundle & { readonly editions: readonly ReadyEdition[] }> {
  const editions = await Promise.all(editionIds(made).map((id) => readyEdition(ground, id, language)))
  const [first, ...others] = editions.map(({ ready }) => ready)
  return { parts: [first!, ...others], editions }
}

/** The newest editions of a template, or of a packet's, that somebody has chosen to make agreements of. */
export async function chosenBundle(
  app: App,
  by: Person,
  asked: { readonly templateId?: string | null | undefined; readonly packetId?: string | null | undefined },
) {
  const templates = asked.packetId ? await packetTemplates(app, asked.packetId) : [asked.templateId!]
  for (const templateId of templates) await requireRight(app.db, by, templateId, 'use')
  const editions = await Promise.all(templates.map((templateId) => latestEdition(app, templateId)))
  const made = {
    editionId: editions[0]!.id,
    packetEditions: asked.packetId ? editions.map(({ id }) => id) : [],
  }
  const bundle = await bundleOfRun(app, made)
  const [clash] = bundleConflicts(bundle)
  if (clash) throw invalid(clash)
  return { made, bundle, templateId: templates[0]!, numbers: editions.map(({ number }) => number) }
}

/** The templates of a packet, in their order. */
export async function packetTemplates(app: App, id: string): Promise<readonly string[]> {
  const [found] = await app.db.select().from(packet).where(eq(packet.id, id))
  if (!found) throw notFound('packet')
  return found.templates
}

type Agreement = typeof agreement.$inferSelect

/** What an agreement is made of: its editions, or the wording somebody gave it by hand. */
export async function bundleOf(
  ground: Ground,
  found: Pick<Agreement, 'editionId' | 'packetEditions' | 'content' | 'language'>,
): Promise<Bundle & { readonly editions: readonly ReadyEdition[] }> {
  const bundle = await bundleOfRun(ground, found, found.language)
  if (!found.content) return bundle
  const prepared = prepare(found.language ? { ...found.content, language: found.language } : found.content)
  if (!prepared.ok) throw new Error('A wording changed by hand cannot be merged.')
  return { ...bundle, parts: [prepared.ready, ...bundle.parts.slice(1)] }
}

/** Whoever sends, as data of the roles they fill. */
export const senderOf = (
  content: TemplateContent,
  sender: Parameters<typeof senderDetails>[0],
  company: string,
) => senderData(content, senderDetails(sender, company))

export const senderDetails = (
  { name, email, post }: { readonly name: string; readonly email: string; readonly post: string },
  company: string,
) => ({
  name,
  email,
  title: post,
  company,
})
