import type * as v from 'valibot'
import type { triedSchema } from '#contract/connection.ts'
import { kindInSample, kindsInDescription, suggestedFor } from '#core/connection/found.ts'
import type { TheirKind } from '#core/connection/kinds.ts'
import { readPage } from '#core/connection/read.ts'
import type { Person } from '#contract/person.ts'
import { requireMay } from '#server/app/actor.ts'
import type { App } from '#server/app/app.ts'
import { invalid } from '#server/ground/problem.ts'
import { type Asked, askSystem, type System } from '#server/outside/system.ts'
import { organisationOf } from '#server/services/installation/organisation.ts'
import { fieldsOf } from '#server/services/records/record-fields.ts'
import { type Connection, connectionRow } from './connections.ts'

type Tried = v.InferOutput<typeof triedSchema>

/** Asks for the first page of a kind, or the next ones. */
export function askPage(
  app: App,
  system: System,
  kind: TheirKind,
  {
    since,
    page,
    cursor,
  }: { readonly since: Date | null; readonly page: number; readonly cursor: string | null },
): Promise<Asked> {
  const { paging } = kind
  return askSystem(
    app,
    system,
    {
      method: 'GET',
      path: kind.path,
      query: {
        ...(kind.since && since ? { [kind.since]: since.toISOString() } : {}),
        ...(paging?.style === 'page' ? { [paging.param]: String(page) } : {}),
        ...(paging?.style === 'cursor' && cursor !== null ? { [paging.param]: cursor } : {}),
      },
    },
    app.now(),
  )
}

const unanswered = (status: number): string => `It answered ${status}.`

/** Tries a connection step by step; the first that fails says why, and those behind it are not tried. */
export async function tryConnection(app: App, by: Person, id: string): Promise<Tried> {
  await requireMay(app, by, 'settings')
  const system = await connectionRow(app, id)
  const steps: Tried['steps'] = []
  const step = (name: string, said: string, ok: boolean) => {
    steps.push({ name, said, ok })
    return ok
  }
  const path = system.description || system.kinds[0]?.path || '/'
  const first = await askSystem(app, system, { method: 'GET', path }, app.now())
  if (!first.ok && first.at === 'answer') {
    step('The address answers', first.why, false)
    return { steps }
  }
  step('The address answers', system.address, true)
  if (!first.ok) {
    step('It knows who calls', first.why, false)
    return { steps }
  }
  step(
    'It knows who calls',
    system.auth.kind === 'none' ? 'it asks for nothing' : 'it takes what it was shown',
    first.status !== 401,
  )
  if (first.status === 401) return { steps }
  if (system.description) {
    const found = first.status === 200 && first.json !== null ? kindsInDescription(first.json) : []
    const said = found.length
      ? found.map(({ name }) => name).join(', ')
      : first.status === 200
        ? 'No kind of record is described there.'
        : unanswered(first.status)
    if (!step('Its description tells its kinds', said, found.length > 0)) return { steps }
  }
  for (const kind of system.kinds.filter(({ into }) => into !== null)) {
    const asked = await askPage(app, system, kind, { since: null, page: 1, cursor: null })
    const fields = await fieldsOf(app.db, kind.into!)
    const read =
      asked.ok && asked.status === 200 && asked.json !== null
        ? readPage(kind, fields, asked.json)
        : { ok: false as const, problem: asked.ok ? unanswered(asked.status) : asked.why }
    if (!read.ok) {
      step(`A page of ${kind.name}`, read.problem, false)
      return { steps }
    }
    const wrong = read.records.flatMap(({ problems }) => problems)[0]
    step(
      `A page of ${kind.name}`,
      `${read.records.length} read${wrong ? `; ${wrong.message}` : ''}`,
      wrong === undefined,
    )
  }
  return { steps }
}

/** The description of today; null: it has none, or none can be read now. */
export async function describedKinds(app: App, system: Connection): Promise<readonly TheirKind[] | null> {
  if (!system.description) return null
  const asked = await askSystem(app, system, { method: 'GET', path: system.description }, app.now())
  if (!asked.ok || asked.status !== 200 || asked.json === null) return null
  return kindsInDescription(asked.json)
}

/** Kinds and fields that a system has: by its description, or of one path by a sample answer. With what likely fills what of ours. */
export async function findKinds(
  app: App,
  by: Person,
  id: string,
  path: string | null,
): Promise<{ kinds: TheirKind[] }> {
  await requireMay(app, by, 'settings')
  const system = await connectionRow(app, id)
  const found = path === null ? await described(app, system) : await sampled(app, system, path)
  const { synonyms } = await organisationOf(app.db)
  const customer = await fieldsOf(app.db, 'customer')
  const known = new Map(system.kinds.map((kind) => [kind.name, kind]))
  return {
    kinds: found.map((kind) => {
      const before = known.get(kind.name)
      // What was said of it stays said; only its fields are those of today.
      return before
        ? { ...before, fields: kind.fields }
        : { ...kind, mapping: suggestedFor(customer, kind, synonyms) }
    }),
  }
}

async function described(app: App, system: Connection): Promise<readonly TheirKind[]> {
  if (!system.description) throw invalid('Say where its description is, or name the path of a list.')
  const kinds = await describedKinds(app, system)
  if (!kinds?.length)
    throw invalid(`No kinds are found at ${system.description}. Name the path of a list instead.`)
  return kinds
}

async function sampled(app: App, system: Connection, path: string): Promise<readonly TheirKind[]> {
  const asked = await askSystem(app, system, { method: 'GET', path }, app.now())
  if (!asked.ok) throw invalid(asked.why)
  if (asked.status !== 200 || asked.json === null)
    throw invalid(`${path}: it answered ${asked.status}, and no list.`)
  const kind = kindInSample(path, asked.json)
  if (!kind) throw invalid(`What ${path} answers is no list of records.`)
  return [kind]
}
