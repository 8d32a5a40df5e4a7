import type { AgreementState } from '../agreement/states.ts'
import { blanksOf, missingBlanks, type PlacedBlank, unfinished } from '../agreement/signing.ts'
import type { Filled } from '../agreement/filled.ts'
import type { Say } from '../languages/speak.ts'
import { type Check, type PartyKind, type Turn, whoseTurn } from './parties.ts'

/** An agreement as its ceremony looks at it. */
export interface Ceremony {
  readonly state: AgreementState
  readonly revision: number
  readonly signBy: Date | null
  readonly parties: readonly (Turn & { readonly id: string })[]
  readonly blanks: readonly PlacedBlank[]
}

/** Why a link was ended; null: it holds. */
export const LINK_ENDS = ['handed over', 'replaced', 'address corrected', 'expired'] as const
export type LinkEnd = (typeof LINK_ENDS)[number]

/** Whoever comes with a link. */
export interface Bearer {
  readonly id: string
  readonly role: string
  readonly revision: number
  readonly kind: PartyKind
  readonly check: Check
  readonly mayDecline: boolean
  readonly mayHandOver: boolean
  readonly consented: boolean
  readonly signedAt: string | Date | null
  readonly link: LinkEnd | null
  /** Whether this very visit has shown what the check asks for. */
  readonly proved: boolean
  readonly values: ReadonlyMap<string, Filled>
}

/** What a link leads to; anything but `open` says why nothing can be signed here. */
export const STANDINGS = [
  'open',
  'signed',
  'waiting',
  'reading',
  'executed',
  'declined',
  'lapsed',
  'withdrawn',
  'revised',
  ...LINK_ENDS,
] as const
export type LinkStatus = (typeof STANDINGS)[number]

/** What stands between a party and the end of signing, in the order in which it is passed. */
export const GATES = ['turn', 'identity', 'consent', 'blanks', 'finish'] as const
export type Gate = (typeof GATES)[number]

/** What a party may do by their link. */
export const PARTY_ACTS = [
  'prove',
  'read',
  'ask',
  'consent',
  'fill',
  'finish',
  'decline',
  'hand over',
] as const
export type PartyAct = (typeof PARTY_ACTS)[number]

/** A blank that keeps a party from signing. */
export interface Missing {
  readonly blank: PlacedBlank
  /** What is wrong with what stands there; null: nothing does. */
  readonly message: string | null
}

/** What a link gives its bearer now. */
export interface SigningAccess {
  readonly standing: LinkStatus
  /** In the order in which they are passed; none where nothing is to be passed. */
  readonly gates: readonly { readonly gate: Gate; readonly passed: boolean }[]
  readonly missing: readonly Missing[]
  readonly may: ReadonlySet<PartyAct>
}

/** Where a link leads, before anybody has shown who they are. */
function standingOf(ceremony: Ceremony, bearer: Bearer, now: Date): LinkStatus {
  const { state, revision, signBy } = ceremony
  if (bearer.link) return bearer.link
  if (bearer.revision !== revision) return 'revised'
  if (state === 'executed' || state === 'declined' || state === 'lapsed' || state === 'withdrawn')
    return state
  if (state !== 'out') return 'revised'
  if (bearer.kind === 'copy') return 'reading'
  if (bearer.signedAt) return 'signed'
  // Between the end and the job that notes it, nothing can be signed either.
  if (signBy && now > signBy) return 'lapsed'
  return whoseTurn(ceremony.parties).some(({ id }) => id === bearer.id) ? 'open' : 'waiting'
}

/** Standings in which the document may be read by the link's bearer, once they have shown who they are. */
const READABLE: readonly LinkStatus[] = ['open', 'signed', 'reading', 'executed', 'declined']

/** What is not filled in that has to be, or not as it has to be, in reading order. */
export function missingOf(
  blanks: readonly PlacedBlank[],
  role: string,
  values: Bearer['values'],
  say: Say,
): readonly Missing[] {
  const own = blanksOf(blanks, role)
  const empty = new Set(missingBlanks(own, role, new Set(values.keys())).map(({ id }) => id))
  const wrong = new Map(unfinished(own, values, say).map(({ blank, message }) => [blank.id, message]))
  return own.flatMap((blank) =>
    wrong.has(blank.id) || empty.has(blank.id) ? [{ blank, message: wrong.get(blank.id) ?? null }] : [],
  )
}

/** What the bearer of a link may do now, and what is missing for the rest; `say`: in whose language that is told. */
export function passageOf(ceremony: Ceremony, bearer: Bearer, now: Date, say: Say): SigningAccess {
  const standing = standingOf(ceremony, bearer, now)
  const identity = bearer.check === 'link' || bearer.proved
  if (standing !== 'open') {
    const readable = READABLE.includes(standing)
    return {
      standing,
      gates: readable ? [{ gate: 'identity', passed: identity }] : [],
      missing: [],
      may: new Set<PartyAct>(!readable ? [] : identity ? ['read'] : ['prove']),
    }
  }
  const fills = bearer.kind === 'signer'
  const missing = fills ? missingOf(ceremony.blanks, bearer.role, bearer.values, say) : []
  const passed: Record<Gate, boolean> = {
    turn: true,
    identity,
    consent: bearer.consented,
    blanks: missing.length === 0,
    finish: false,
  }
  const gates = GATES.filter((gate) => fills || gate !== 'blanks')
  const next = gates.find((gate) => !passed[gate])!
  const may = new Set<PartyAct>()
  if (next === 'identity') may.add('prove')
  else {
    may.add('read').add('ask')
    if (bearer.mayDecline) may.add('decline')
    if (bearer.mayHandOver) may.add('hand over')
    if (next === 'consent') may.add('consent')
    else if (fills) may.add('fill')
    if (next === 'finish') may.add('finish')
  }
  return { standing, gates: gates.map((gate) => ({ gate, passed: passed[gate] })), missing, may }
}
