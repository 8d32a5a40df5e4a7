import { originSaid } from '../agreement/origin.ts'
import type { ToldOrigin } from '../agreement/origin.ts'
import { reasonsSaid, rowSaid } from '../routing/route.ts'
import type { RouteStep } from '../routing/route.ts'
import type { TrailAct, TrailEntry } from './trail.ts'

/** What the trail keeps of a document, so that a change of the record shows: SHA-256 in hex of each. */
interface Made {
  readonly document: string
  readonly people: string
  readonly data: string
}

interface Decided {
  readonly as: string
  readonly reason: string
  readonly note: string
  /** Whom they stood in for. */
  readonly for?: string
}

export interface Revised extends Made {
  readonly revision: number
}

interface Replaced {
  readonly role: string
  readonly before: string
  readonly name: string
  readonly email: string
  readonly people: string
}

/**
 * Everything that can happen to an agreement, with what the trail keeps of it. The names stand in trails that never change:
 * a name is not changed either, and what is added to one is optional.
 */
export interface ActDetails {
  made: Made & ToldOrigin & { readonly number: string }
  'made again': Revised & { readonly run: string; readonly row: number }
  'wording changed by hand': Revised & { readonly note: string }
  'wording of the template again': Revised & { readonly note: string }
  'put to approval': { readonly approver: string; readonly reason: string; readonly rows?: string }
  approved: Decided
  returned: Decided & { readonly to?: string }
  /** An approval that was given counts no more, and why. */
  'approval fallen': { readonly as: string; readonly by: string; readonly reason: string }
  /** One that was given for the same values counts on. */
  'approval kept': { readonly as: string; readonly by: string }
  'handed over': { readonly as: string; readonly to: string; readonly note: string }
  reminded: { readonly as: string; readonly to: string }
  overdue: { readonly as: string; readonly to: string }
  asked: { readonly as: string; readonly question: string }
  answered: { readonly question: string; readonly answer: string }
  cleared: { readonly reason: string }
  sent: { readonly 'sign by': string }
  'sent unread': { readonly 'sign by': string }
  invited: { readonly name: string; readonly email: string; readonly role: string }
  opened: { readonly role: string; readonly address: string }
  'agreed to sign electronically': { readonly role: string; readonly address: string }
  signed: {
    readonly role: string
    readonly address: string
    readonly revision: number
    readonly document: string
    /** Hash of what was filled in. */
    readonly values: string
    /** At whose device, where they were there in person. */
    readonly 'in person with'?: string
  }
  /** By somebody who only has to agree; the same is kept as of a signature. */
  assented: ActDetails['signed']
  declined: { readonly role: string; readonly reason: string; readonly address: string }
  'parties set': { readonly people: string; readonly told: string }
  'reminded to sign': { readonly name: string; readonly email: string; readonly role: string }
  'address corrected': {
    readonly role: string
    readonly before: string
    readonly email: string
    readonly people: string
  }
  'signer replaced': Replaced
  /** By the signer themselves. */
  'signature handed over': Replaced & { readonly reason: string; readonly address: string }
  'date to sign by changed': { readonly before: string; readonly 'sign by': string }
  'taken back': Revised & { readonly reason: string }
  lapsed: { readonly 'sign by': string }
  'mail undeliverable': { readonly to: string; readonly subject: string; readonly problem: string }
  'identity shown': { readonly role: string; readonly check: string; readonly address: string }
  'identity not shown': {
    readonly role: string
    readonly check: string
    readonly address: string
    readonly left: number
  }
  'device handed over': { readonly name: string; readonly role: string }
  'access code set': { readonly role: string }
  'code sent': { readonly role: string; readonly to: string }
  'asked as a party': { readonly role: string; readonly question: string; readonly passage: string }
  'party answered': { readonly question: string; readonly answer: string }
  withdrawn: Readonly<Record<never, never>>
  /** The sealed file, by its hash. */
  executed: { readonly file: string }
}
export type ActName = keyof ActDetails

/** One thing that happened to an agreement. */
export type Act = { readonly [N in ActName]: { readonly act: N; readonly detail: ActDetails[N] } }[ActName]
export type ActOf<N extends ActName> = Extract<Act, { readonly act: N }>

/** Whoever acts where nobody does. */
export const MACHINE = 'Brevan'

interface Told<N extends ActName> {
  /** Behind the name of whoever did it, for those who work with the agreement. */
  readonly says: (detail: ActDetails[N]) => string
  /** The same for its parties, who read it on the evidence pages; null: it is the sender's own. */
  readonly parties: string | null
}

const capacity = ({ as, for: instead }: { readonly as: string; readonly for?: string }) =>
  instead ? `${as}, for ${instead}` : as

const noted = (note: string) => (note ? `: “${note}”` : '')

/** What is said of each act, and to whom. */
export const ACTS: { readonly [N in ActName]: Told<N> } = {
  made: { says: (detail) => `made it from ${originSaid(detail)}`, parties: null },
  'made again': {
    says: (detail) => `made it again from ${originSaid(detail)}, revision ${detail.revision}`,
    parties: null,
  },
  'wording changed by hand': {
    says: ({ revision, note }) => `changed its wording by hand, revision ${revision}${noted(note)}`,
    parties: null,
  },
  'wording of the template again': {
    says: ({ revision, note }) => `brought the template’s wording back, revision ${revision}${noted(note)}`,
    parties: null,
  },
  'put to approval': {
    says: ({ approver, reason, rows }) => `put it to ${approver}: ${reason}${rows ? ` (${rows})` : ''}`,
    parties: null,
  },
  approved: { says: (detail) => `approved it as ${capacity(detail)}${noted(detail.note)}`, parties: null },
  returned: {
    says: (detail) =>
      `returned it as ${capacity(detail)}${detail.to ? ` to ${detail.to}` : ''}${noted(detail.note)}`,
    parties: null,
  },
  'approval fallen': {
    says: ({ as, by, reason }) => `let the approval by ${by} as ${as} fall: ${reason}`,
    parties: null,
  },
  'approval kept': {
    says: ({ as, by }) => `kept the approval by ${by} as ${as}: what it rests on is the same`,
    parties: null,
  },
  'handed over': {
    says: ({ as, to, note }) => `handed the approval as ${as} to ${to}${noted(note)}`,
    parties: null,
  },
  reminded: { says: ({ as, to }) => `reminded ${to} of the approval as ${as}`, parties: null },
  overdue: { says: ({ as, to }) => `found the approval as ${as} overdue and told ${to}`, parties: null },
  asked: { says: ({ as, question }) => `asked as ${as}: “${question}”`, parties: null },
  answered: { says: ({ question, answer }) => `answered “${question}”: “${answer}”`, parties: null },
  cleared: { says: ({ reason }) => `found it ready to send: ${reason}`, parties: null },
  sent: {
    says: ({ 'sign by': by }) => `sent it, to be signed by ${by.slice(0, 10)}`,
    parties: 'sent for signature',
  },
  'sent unread': {
    says: ({ 'sign by': by }) => `sent it, its wording unread, to be signed by ${by.slice(0, 10)}`,
    parties: 'sent for signature',
  },
  invited: {
    says: ({ name, role, email }) => `invited ${name} as ${role} at ${email}`,
    parties: 'invited to sign',
  },
  opened: { says: ({ role }) => `opened it as ${role}`, parties: 'opened the document' },
  'agreed to sign electronically': {
    says: () => 'agreed to sign electronically',
    parties: 'agreed to sign electronically',
  },
  signed: {
    says: ({ role, 'in person with': device }) =>
      `signed as ${role}${device ? `, in person with ${device}` : ''}`,
    parties: 'signed',
  },
  'device handed over': {
    says: ({ name, role }) => `handed the device to ${name} to sign as ${role}`,
    parties: 'handed the device over',
  },
  declined: {
    says: ({ role, reason }) => `declined to sign as ${role}: “${reason}”`,
    parties: 'declined to sign',
  },
  assented: { says: ({ role }) => `agreed to it as ${role}`, parties: 'agreed to the document' },
  'parties set': { says: ({ told }) => `set who signs and how: ${told}`, parties: null },
  'reminded to sign': {
    says: ({ name, role, email }) => `reminded ${name} as ${role} at ${email}`,
    parties: 'reminded to sign',
  },
  'address corrected': {
    says: ({ role, before, email }) => `corrected the address of ${role} from ${before} to ${email}`,
    parties: 'corrected an address',
  },
  'signer replaced': {
    says: ({ role, before, name, email }) => `had ${name} (${email}) sign as ${role} instead of ${before}`,
    parties: 'had somebody else sign',
  },
  'signature handed over': {
    says: ({ role, name, email, reason }) =>
      `handed the signature as ${role} over to ${name} (${email})${noted(reason)}`,
    parties: 'handed the signature over',
  },
  'date to sign by changed': {
    says: ({ before, 'sign by': by }) =>
      `changed the date to sign by from ${before.slice(0, 10)} to ${by.slice(0, 10)}`,
    parties: 'changed the date to sign by',
  },
  'taken back': {
    says: ({ revision, reason }) => `took it back to revise it, revision ${revision}${noted(reason)}`,
    parties: null,
  },
  lapsed: { says: () => 'found that the date to sign by has passed', parties: null },
  'mail undeliverable': {
    says: ({ to, subject, problem }) => `could not deliver “${subject}” to ${to}: ${problem}`,
    parties: null,
  },
  'identity shown': {
    says: ({ role, check }) => `showed who they are as ${role}, by ${check}`,
    parties: 'showed who they are by the code asked for',
  },
  'identity not shown': {
    says: ({ role, check, left }) => `gave a wrong ${check} as ${role}; ${left} tries left`,
    parties: 'gave a wrong code',
  },
  'access code set': { says: ({ role }) => `set another access code for ${role}`, parties: null },
  'code sent': { says: ({ role, to }) => `sent a code to ${to} for ${role}`, parties: 'sent a code' },
  'asked as a party': {
    says: ({ role, question, passage }) =>
      `asked as ${role}: “${question}”${passage ? ` (about “${passage}”)` : ''}`,
    parties: null,
  },
  'party answered': { says: ({ question, answer }) => `answered “${question}”: “${answer}”`, parties: null },
  withdrawn: { says: () => 'withdrew it', parties: null },
  executed: { says: () => 'sealed it', parties: null },
}

/** What a route is in the trail: the approvals it asks for, or that it asks for none. */
export const routingActs = (steps: readonly Pick<RouteStep, 'approver' | 'reasons'>[]): readonly Act[] =>
  steps.length
    ? steps.map(({ approver, reasons }) => ({
        act: 'put to approval',
        detail: { approver, reason: reasonsSaid(reasons), rows: reasons.map(rowSaid).join('; ') },
      }))
    : [{ act: 'cleared', detail: { reason: 'No rule asks for approval' } }]

/** No approval is open any more. */
export const ALL_GIVEN: Act = { act: 'cleared', detail: { reason: 'All approvals are given' } }

const isAct = (name: string): name is ActName => Object.hasOwn(ACTS, name)

/** What an entry says, behind its actor's name. An act that this version does not know says its name. */
export function saysOf({ act, detail }: Pick<TrailAct, 'act' | 'detail'>): string {
  if (!isAct(act)) return act
  const told = ACTS[act] as Told<ActName>
  return told.says(detail as unknown as ActDetails[typeof act])
}

/** What the parties may read of a trail; who approved what, and how it was read before it went out, is not theirs. */
export const forParties = (
  entries: readonly TrailEntry[],
): readonly Pick<TrailEntry, 'seq' | 'at' | 'actor' | 'act' | 'hash'>[] =>
  entries.flatMap(({ seq, at, actor, act, hash }) => {
    const told = isAct(act) ? ACTS[act].parties : null
    return told === null ? [] : [{ seq, at, actor, act: told, hash }]
  })
