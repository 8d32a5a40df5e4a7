import { eq } from 'drizzle-orm'
import type { Person, Right } from '#contract/person.ts'
import type { Scope } from '#contract/scope.ts'
import type { Db } from '#server/db/connect.ts'
import { person } from '#server/db/schema.ts'
import { forbidden } from '#server/ground/problem.ts'

/**
 * By what somebody acts where they do not act by themselves: a key, which may no more than its scopes say; a form, which works in
 * the name of its owner; a schedule or a job, which goes on with what somebody began.
 */
export type By =
  | { readonly kind: 'key'; readonly name: string; readonly scopes: readonly Scope[] }
  | { readonly kind: 'form'; readonly title: string }
  | { readonly kind: 'schedule'; readonly what: string }

/** Whoever acts: a person, by themselves or by something that acts in their name; of a team's key, for that team alone. */
export type Actor = Person & {
  readonly via?: By | undefined
  readonly inTeam?: string | undefined
}

/** The scope that a key needs for an act of a right; a right without one is no key's. */
const SCOPE_OF: { readonly [R in Right]: Scope | null } = {
  templates: null,
  runs: 'start agreements',
  approve: null,
  send: 'send agreements',
  rules: null,
  'post room': null,
  settings: null,
}

/** What is known of somebody now. */
interface Standing {
  readonly rights: readonly Right[]
  readonly leftAt: Date | null
}

/** Whether an actor may do what asks for a right, by what their person may now. Who has left may nothing. */
export function mayNow({ via }: Pick<Actor, 'via'>, right: Right, now: Standing | undefined): boolean {
  if (!now || now.leftAt !== null || !now.rights.includes(right)) return false
  if (via?.kind !== 'key') return true
  const scope = SCOPE_OF[right]
  return scope !== null && via.scopes.includes(scope)
}

/** Refuses an act to whoever may not do it now; what the actor is said to be counts for nothing. Every use case asks first. */
export async function requireMay(
  { db }: { readonly db: Db },
  actor: Actor,
  ...rights: readonly [Right, ...Right[]]
): Promise<void> {
  const [now] = await db
    .select({ rights: person.rights, leftAt: person.leftAt })
    .from(person)
    .where(eq(person.id, actor.id))
  if (rights.some((right) => mayNow(actor, right, now))) return
  throw forbidden(refusalOf(actor, rights[0], now))
}

function refusalOf({ name, via }: Actor, right: Right, now: Standing | undefined): string {
  if (!now || now.leftAt !== null) return `${name} does not work here any more.`
  if (!via) return `Your rights do not include “${right}”.`
  if (!now.rights.includes(right)) return `${name}’s rights do not include “${right}”.`
  return via.kind === 'key' ? `The key “${via.name}” may not do this.` : `${name} may not do this.`
}
