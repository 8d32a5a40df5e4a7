import { checkNamed } from '../ceremony/parties.ts'
import { keysOf } from '../keys-of.ts'
import { describeOrigin, type ToldOrigin } from '../agreement/origin.ts'
import type { WordKey } from '../languages/en.ts'
import type { Moment } from '../next-steps/steps.ts'
import { describeReasons, describeRow, type RouteStep } from '../routing/route.ts'
import { hashOf, type TrailAct } from './trail.ts'

/** What the trail keeps of a document, so that a change of the record shows: SHA-256 in hex of each. */
interface Made {
  readonly document: string
  readonly people: string
  readonly data: string
  /** What is to be filled in and where, and whoever shaped it; not of acts of before these were kept. */
  readonly blanks?: string
  readonly shaped?: string
}

interface Decided {
  readonly as: string
  readonly reason: string
  readonly note: string
  /** Whom they stood in for. */
  readonly for?: string
}

/** A further revision of an agreement. */
export interface Revised extends Made {
  readonly revision: number
}

interface Replaced {
  readonly role: string
  readonly before: string
  readonly name: string
  readonly email: string
  readonly people: string
  readonly settings?: string
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
  'put to approval': {
    readonly approver: string
    readonly reason: string
    readonly rows?: string
    /** SHA-256 of those who may decide, and of the order it comes in. */
    readonly may?: string
  }
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
  /** `settings`: how each party takes part, as `settingsHash` has it. */
  sent: { readonly 'sign by': string; readonly settings?: string }
  'sent unread': { readonly 'sign by': string; readonly settings?: string }
  /** It goes by itself at that time, unless somebody holds it. */
  'time to go set': { readonly at: string }
  held: { readonly reason: string }
  /** A notice: to whom, and the document they got. */
  delivered: { readonly to: string; readonly file: string }
  'delivered again': { readonly name: string; readonly email: string; readonly role: string }
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
    /** What the identity rests on, where that is less than a link to an address. */
    readonly identity?: string
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
  'access code set': { readonly role: string; readonly settings?: string }
  'code sent': { readonly role: string; readonly to: string }
  'asked as a party': { readonly role: string; readonly question: string; readonly passage: string }
  'party answered': { readonly question: string; readonly answer: string }
  'paper printed': { readonly role: string; readonly document: string }
  /** A signature on paper that somebody put back: the scan by its hash, with the pages it was known by. */
  'signed on paper': {
    readonly role: string
    readonly revision: number
    readonly document: string
    readonly scan: string
    readonly pages: number
    readonly values: string
  }
  'introduction set': { readonly file: string; readonly transcript: string }
  'introduction removed': Readonly<Record<never, never>>
  withdrawn: Readonly<Record<never, never>>
  /** A step of what follows, and what came of it. */
  followed: { readonly step: string; readonly came: string }
  'not followed': { readonly step: string; readonly why: string }
  /** The sealed file, by its hash. */
  executed: { readonly file: string }
}
/** The acts by name; a name stands in trails for ever. */
export type ActName = keyof ActDetails

/** One thing that happened to an agreement. */
export type Act = { readonly [N in ActName]: { readonly act: N; readonly detail: ActDetails[N] } }[ActName]
/** An act of one name. */
export type ActOf<N extends ActName> = Extract<Act, { readonly act: N }>

/** Whoever acts where nobody does. */
export const MACHINE = 'Brevan'

interface Told<N extends ActName> {
  /** Behind the name of whoever did it, for those who work with the agreement. */
  readonly says: (detail: ActDetails[N]) => string
  /** What its parties read of it on the evidence pages, in their language; false: it is the sender's own. */
  readonly parties: WordKey | false
}

const capacity = ({ as, for: instead }: { readonly as: string; readonly for?: string }) =>
  instead ? `${as}, for ${instead}` : as

const noted = (note: string) => (note ? `: “${note}”` : '')

/** What is said of each act, and to whom. */
export const ACTS: { readonly [N in ActName]: Told<N> } = {
  made: { says: (detail) => `made it from ${describeOrigin(detail)}`, parties: false },
  'made again': {
    says: (detail) => `made it again from ${describeOrigin(detail)}, revision ${detail.revision}`,
    parties: false,
  },
  'wording changed by hand': {
    says: ({ revision, note }) => `changed its wording by hand, revision ${revision}${noted(note)}`,
    parties: false,
  },
  'wording of the template again': {
    says: ({ revision, note }) => `brought the template’s wording back, revision ${revision}${noted(note)}`,
    parties: false,
  },
  'put to approval': {
    says: ({ approver, reason, rows }) => `put it to ${approver}: ${reason}${rows ? ` (${rows})` : ''}`,
    parties: false,
  },
  approved: { says: (detail) => `approved it as ${capacity(detail)}${noted(detail.note)}`, parties: false },
  returned: {
    says: (detail) =>
      `returned it as ${capacity(detail)}${detail.to ? ` to ${detail.to}` : ''}${noted(detail.note)}`,
    parties: false,
  },
  'approval fallen': {
    says: ({ as, by, reason }) => `let the approval by ${by} as ${as} fall: ${reason}`,
    parties: false,
  },
  'approval kept': {
    says: ({ as, by }) => `kept the approval by ${by} as ${as}: what it rests on is the same`,
    parties: false,
  },
  'handed over': {
    says: ({ as, to, note }) => `handed the approval as ${as} to ${to}${noted(note)}`,
    parties: false,
  },
  reminded: { says: ({ as, to }) => `reminded ${to} of the approval as ${as}`, parties: false },
  overdue: { says: ({ as, to }) => `found the approval as ${as} overdue and told ${to}`, parties: false },
  asked: { says: ({ as, question }) => `asked as ${as}: “${question}”`, parties: false },
  answered: { says: ({ question, answer }) => `answered “${question}”: “${answer}”`, parties: false },
  cleared: { says: ({ reason }) => `found it ready to send: ${reason}`, parties: false },
  sent: {
    says: ({ 'sign by': by }) => `sent it, to be signed by ${by.slice(0, 10)}`,
    parties: 'evidence.acts.sent',
  },
  'sent unread': {
    says: ({ 'sign by': by }) => `sent it, its wording unread, to be signed by ${by.slice(0, 10)}`,
    parties: 'evidence.acts.sent',
  },
  'time to go set': {
    says: ({ at }) => `set it to go by itself at ${at.slice(0, 16).replace('T', ' ')} UTC`,
    parties: false,
  },
  held: { says: ({ reason }) => `held it: ${reason}`, parties: false },
  delivered: { says: ({ to }) => `delivered it to ${to}`, parties: false },
  'delivered again': {
    says: ({ name, role, email }) => `delivered it again to ${name} as ${role} at ${email}`,
    parties: false,
  },
  invited: {
    says: ({ name, role, email }) => `invited ${name} as ${role} at ${email}`,
    parties: 'evidence.acts.invited',
  },
  opened: { says: ({ role }) => `opened it as ${role}`, parties: 'evidence.acts.opened' },
  'agreed to sign electronically': {
    says: () => 'agreed to sign electronically',
    parties: 'evidence.acts.consented',
  },
  signed: {
    says: ({ role, 'in person with': device }) =>
      `signed as ${role}${device ? `, in person with ${device}` : ''}`,
    parties: 'evidence.acts.signed',
  },
  'device handed over': {
    says: ({ name, role }) => `handed the device to ${name} to sign as ${role}`,
    parties: 'evidence.acts.device',
  },
  declined: {
    says: ({ role, reason }) => `declined to sign as ${role}: “${reason}”`,
    parties: 'evidence.acts.declined',
  },
  assented: { says: ({ role }) => `agreed to it as ${role}`, parties: 'evidence.acts.assented' },
  'parties set': { says: ({ told }) => `set who signs and how: ${told}`, parties: false },
  'reminded to sign': {
    says: ({ name, role, email }) => `reminded ${name} as ${role} at ${email}`,
    parties: 'evidence.acts.reminded',
  },
  'address corrected': {
    says: ({ role, before, email }) => `corrected the address of ${role} from ${before} to ${email}`,
    parties: 'evidence.acts.corrected',
  },
  'signer replaced': {
    says: ({ role, before, name, email }) => `had ${name} (${email}) sign as ${role} instead of ${before}`,
    parties: 'evidence.acts.replaced',
  },
  'signature handed over': {
    says: ({ role, name, email, reason }) =>
      `handed the signature as ${role} over to ${name} (${email})${noted(reason)}`,
    parties: 'evidence.acts.handed',
  },
  'date to sign by changed': {
    says: ({ before, 'sign by': by }) =>
      `changed the date to sign by from ${before.slice(0, 10)} to ${by.slice(0, 10)}`,
    parties: 'evidence.acts.extended',
  },
  'taken back': {
    says: ({ revision, reason }) => `took it back to revise it, revision ${revision}${noted(reason)}`,
    parties: false,
  },
  lapsed: { says: () => 'found that the date to sign by has passed', parties: false },
  'mail undeliverable': {
    says: ({ to, subject, problem }) => `could not deliver “${subject}” to ${to}: ${problem}`,
    parties: false,
  },
  'identity shown': {
    says: ({ role, check }) => `showed who they are as ${role}, by ${checkNamed(check)}`,
    parties: 'evidence.acts.shown',
  },
  'identity not shown': {
    says: ({ role, check, left }) => `gave a wrong ${checkNamed(check)} as ${role}; ${left} tries left`,
    parties: 'evidence.acts.notShown',
  },
  'access code set': { says: ({ role }) => `set another agreed code for ${role}`, parties: false },
  'code sent': {
    says: ({ role, to }) => `sent a code to ${to} for ${role}`,
    parties: 'evidence.acts.codeSent',
  },
  'asked as a party': {
    says: ({ role, question, passage }) =>
      `asked as ${role}: “${question}”${passage ? ` (about “${passage}”)` : ''}`,
    parties: false,
  },
  'party answered': { says: ({ question, answer }) => `answered “${question}”: “${answer}”`, parties: false },
  'paper printed': {
    says: ({ role }) => `printed it for ${role} to sign on paper`,
    parties: 'evidence.acts.printed',
  },
  'signed on paper': {
    says: ({ role, pages }) => `put back what ${role} signed on paper, ${pages} pages known by their codes`,
    parties: 'evidence.acts.paper',
  },
  'introduction set': { says: () => 'recorded a word to stand before it', parties: false },
  'introduction removed': { says: () => 'took the recorded word away', parties: false },
  withdrawn: { says: () => 'withdrew it', parties: false },
  followed: { says: ({ step, came }) => `${step}: ${came}`, parties: false },
  'not followed': { says: ({ step, why }) => `could not ${step}: ${why}`, parties: false },
  executed: { says: () => 'sealed it', parties: false },
}

/** Acts that something may follow: each brings an agreement to the moment of that name. */
export const MOMENT_OF: { readonly [N in ActName]?: Moment } = {
  sent: 'out',
  'sent unread': 'out',
  delivered: 'delivered',
  declined: 'declined',
  lapsed: 'lapsed',
  withdrawn: 'withdrawn',
  executed: 'executed',
}

/** What the trail keeps of who may decide a step, and when it is asked for. */
export const mayHash = ({
  who,
  order,
  escalateTo,
}: Pick<RouteStep, 'who' | 'order' | 'escalateTo'>): string =>
  hashOf({ who, order, escalateTo } as unknown as Parameters<typeof hashOf>[0])

/** What a route is in the trail: the approvals it asks for, or that it asks for none. */
export const routingActs = (
  steps: readonly Pick<RouteStep, 'approver' | 'reasons' | 'who' | 'order' | 'escalateTo'>[],
): readonly Act[] =>
  steps.length
    ? steps.map((step) => ({
        act: 'put to approval',
        detail: {
          approver: step.approver,
          reason: describeReasons(step.reasons),
          rows: step.reasons.map(describeRow).join('; '),
          may: mayHash(step),
        },
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

/** All of them. */
export const ACT_NAMES: readonly ActName[] = keysOf(ACTS)
