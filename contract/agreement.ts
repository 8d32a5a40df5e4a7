import type { OriginKind, Origins } from '#core/agreement/origin.ts'
import * as v from 'valibot'
import { STATES } from '#core/agreement/states.ts'
import { CHECKS, PARTY_KINDS, WAYS } from '#core/ceremony/parties.ts'
import { LANGUAGES } from '#core/languages/language.ts'
import { STEP } from '#core/states/all.ts'
import { NOTICE_FORMS } from '#core/document/template.ts'
import { RECORD_KINDS } from '#core/records/kinds.ts'
import { chainEntry, count, id, instant, sha256, wholeNumber } from './basics.ts'
import { templateContentSchema } from './template.ts'
import { bodySchema } from './document.ts'
import { courseName } from './sending.ts'

/** One sign of a thread: a square is an approval, a circle a signature; `since` where it holds the agreement up. */
export const knotSchema = v.object({
  shape: v.picklist(['square', 'circle']),
  label: v.string(),
  status: v.picklist(['done', 'holds', 'to come', 'refused', 'stopped']),
  since: v.nullable(instant),
})
/** Columns from left to right; what stands in one goes on side by side. */
export const threadSchema = v.array(v.array(knotSchema))
export type Thread = v.InferOutput<typeof threadSchema>

/** An agreement as lists show it. */
export const agreementSummarySchema = v.object({
  id,
  number: v.string(),
  name: v.string(),
  state: v.picklist(STATES),
  template: v.string(),
  changedAt: instant,
  thread: threadSchema,
  /** The last mail to somebody who holds it up, or for whom it is, came back. */
  undelivered: v.boolean(),
})
export type AgreementSummary = v.InferOutput<typeof agreementSummarySchema>

/** Filters of the register; `offset` and `limit` count agreements. */
export const agreementQuery = v.object({
  state: v.optional(v.picklist(STATES)),
  run: v.optional(id),
  record: v.optional(id),
  search: v.optional(v.pipe(v.string(), v.maxLength(100))),
  offset: v.optional(wholeNumber, '0'),
  limit: v.optional(v.pipe(wholeNumber, v.maxValue(10_000)), '1000'),
})
/** `total` counts all that fit, not only those answered. */
export const agreementListSchema = v.object({ total: count, agreements: v.array(agreementSummarySchema) })

/** An approval that is asked for; `mine`: whoever asks may decide it. */
export const stepSchema = v.object({
  id,
  approver: v.string(),
  reason: v.string(),
  state: v.picklist(STEP.states),
  since: instant,
  decidedAt: v.nullable(instant),
  decidedBy: v.nullable(v.string()),
  note: v.nullable(v.string()),
  mine: v.boolean(),
  /** Whom whoever asks would stand in for. */
  standsInFor: v.nullable(v.string()),
  /** Who may decide it now; nobody: a hole. */
  deciders: v.array(v.string()),
  /** Of the round that counts. */
  present: v.boolean(),
  /** Steps of a lower number come first. */
  order: v.number(),
  dueAt: v.nullable(instant),
  reasons: v.array(
    v.object({ table: id, name: v.string(), edition: v.number(), row: v.number(), says: v.string() }),
  ),
  decidedFor: v.nullable(v.string()),
  handedTo: v.nullable(v.string()),
  /** Given before, for the same values. */
  kept: v.boolean(),
  escalated: v.boolean(),
})

/** A question of an approver's, with its answer. */
export const questionSchema = v.object({
  id,
  step: id,
  text: v.string(),
  askedBy: v.string(),
  askedAt: instant,
  answer: v.nullable(v.string()),
  answeredBy: v.nullable(v.string()),
  answeredAt: v.nullable(instant),
})

/** A party's question about a passage, with the sender's answer. */
export const partyQuestionSchema = v.object({
  id,
  name: v.string(),
  label: v.string(),
  passage: v.string(),
  text: v.string(),
  askedAt: instant,
  answer: v.nullable(v.string()),
  answeredBy: v.nullable(v.string()),
  answeredAt: v.nullable(instant),
})
/** What is answered. */
export const partyAnswer = v.object({
  answer: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write an answer.'), v.maxLength(4000)),
})

/** A person on an agreement, and how far they are. */
export const partySchema = v.object({
  id,
  label: v.string(),
  order: v.number(),
  name: v.string(),
  email: v.string(),
  title: v.string(),
  kind: v.picklist(PARTY_KINDS),
  check: v.picklist(CHECKS),
  /** The language they are spoken to in; null: the organisation's. */
  language: v.nullable(v.picklist(LANGUAGES)),
  phone: v.string(),
  linkBy: v.picklist(WAYS),
  message: v.string(),
  mayDecline: v.boolean(),
  mayHandOver: v.boolean(),
  copyNow: v.boolean(),
  /** Who put back what they signed on paper; null: they signed here. */
  paperBy: v.nullable(v.string()),
  /** Why they refused. */
  reason: v.nullable(v.string()),
  /** Too many wrong codes: nobody gets in by their links. */
  locked: v.boolean(),
  /** Why mail to their address reached nobody; null: as far as is known, it did. */
  undelivered: v.nullable(v.string()),
  /** When their mail server took the last mail to them. */
  arrivedAt: v.nullable(instant),
  /** What can be done about them now (core/ceremony/sender-commands.ts). */
  courses: v.array(courseName),
  writtenAt: v.nullable(instant),
  invitedAt: v.nullable(instant),
  openedAt: v.nullable(instant),
  signedAt: v.nullable(instant),
  declinedAt: v.nullable(instant),
  /** What they put into their blanks, once they have signed; `file`: to be fetched. */
  filled: v.array(v.object({ blank: v.string(), label: v.string(), said: v.string(), file: v.boolean() })),
})

/** An entry of an agreement’s trail. */
export const trailEntrySchema = v.object({
  agreement: id,
  ...chainEntry,
})
/** The whole trail, and whether chain, record and files agree with it; `problem` says what does not. */
export const trailSchema = v.object({
  entries: v.array(trailEntrySchema),
  verified: v.boolean(),
  problem: v.nullable(v.string()),
})

/** What names the place that an agreement comes from; a kind that lacks its schema does not compile. */
const ORIGINS = {
  row: { run: id, row: v.number() },
  record: { record: id },
  typed: { person: id },
  file: { file: sha256 },
  answer: { form: id, answer: id },
  call: { key: id, reference: v.string() },
  aftermath: { agreement: v.string(), step: v.string() },
} as const satisfies {
  readonly [K in OriginKind]: { readonly [P in keyof Origins[K]]: v.GenericSchema<Origins[K][P]> }
}

/** Where an agreement comes from (`core/agreement/origin.ts`). */
export const originSchema = v.variant('kind', [
  v.object({ kind: v.literal('row'), ...ORIGINS.row }),
  v.object({ kind: v.literal('record'), ...ORIGINS.record }),
  v.object({ kind: v.literal('typed'), ...ORIGINS.typed }),
  v.object({ kind: v.literal('file'), ...ORIGINS.file }),
  v.object({ kind: v.literal('answer'), ...ORIGINS.answer }),
  v.object({ kind: v.literal('call'), ...ORIGINS.call }),
  v.object({ kind: v.literal('aftermath'), ...ORIGINS.aftermath }),
])

/** One agreement with all that its page shows; `moves` are those its state allows now. */
export const agreementSchema = v.object({
  ...agreementSummarySchema.entries,
  edition: v.number(),
  revision: v.number(),
  origin: originSchema,
  /** Key of its wording in its run, and whether somebody has read that. */
  wording: v.string(),
  wordingRead: v.boolean(),
  /** Its wording was changed for this one customer. */
  byHand: v.boolean(),
  /** Its document is pages of files, which go out as they are and not as DOCX. */
  form: v.boolean(),
  /** What it was before it was made, of a file. */
  oneOff: v.nullable(id),
  language: v.nullable(v.string()),
  copies: v.array(v.string()),
  extra: v.array(v.string()),
  /** The record it is about. */
  record: v.nullable(v.object({ id, kind: v.picklist(RECORD_KINDS), name: v.string() })),
  /** Documents of a packet with their pages. */
  parts: v.array(v.object({ title: v.string(), firstPage: v.number(), pages: v.number() })),
  pages: v.number(),
  createdAt: instant,
  createdBy: v.string(),
  signBy: v.nullable(instant),
  /** When it goes by itself. */
  goesAt: v.nullable(instant),
  /** How it goes out where nobody signs it; null: it is signed. */
  notice: v.nullable(v.picklist(NOTICE_FORMS)),
  /** The day it ends on, where the organisation is: ISO 8601. */
  signByDay: v.nullable(v.string()),
  subject: v.string(),
  message: v.string(),
  executed: v.boolean(),
  steps: v.array(stepSchema),
  questions: v.array(questionSchema),
  parties: v.array(partySchema),
  moves: v.array(v.string()),
  /** What can be done with it as a whole now, once it has gone out. */
  courses: v.array(courseName),
  partyQuestions: v.array(partyQuestionSchema),
})
export type Agreement = v.InferOutput<typeof agreementSchema>

/** One agreement's wording beside its template's. */
export const ownWording = v.object({
  number: v.string(),
  name: v.string(),
  templateId: id,
  revision: v.number(),
  content: templateContentSchema,
  template: templateContentSchema,
  byHand: v.boolean(),
  /** Why it cannot be changed now; null where it can. */
  refusal: v.nullable(v.string()),
})
/** A wording changed by hand; `revision` is the one it was opened at. */
export const wordingChange = v.object({
  revision: v.pipe(v.number(), v.integer()),
  /** The text alone; all else stays as its edition has it. */
  document: bodySchema,
  note: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500)), ''),
})

/** An approver’s answer; what goes back needs its reason. */
export const decisionSchema = v.variant('decision', [
  v.object({ decision: v.literal('approve'), note: v.optional(v.pipe(v.string(), v.maxLength(2000)), '') }),
  v.object({
    decision: v.literal('return'),
    note: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why it goes back.'), v.maxLength(2000)),
    /** An earlier step that it goes back to; else to its author. */
    to: v.optional(v.nullable(id)),
  }),
])

/** What waits for whoever asks: to approve, to send, to mend, and with whom the rest is. */
export const deskSchema = v.object({
  /** What goes on behind, and how far it has come. */
  background: v.array(v.object({ label: v.string(), done: count, total: count })),
  approvals: v.array(
    v.object({
      stepId: id,
      reason: v.string(),
      since: instant,
      dueAt: v.nullable(instant),
      standsInFor: v.nullable(v.string()),
      agreement: agreementSummarySchema,
    }),
  ),
  /** Approvals that nobody may give as things are, for whoever keeps the rules. */
  holes: v.array(v.object({ id, number: v.string(), name: v.string(), approver: v.string() })),
  questions: v.array(
    v.object({ id, agreement: id, number: v.string(), text: v.string(), askedBy: v.string() }),
  ),
  /** What signers refused, and mails that reached nobody, while nothing has been done about them. */
  refused: v.array(
    v.object({ id, number: v.string(), name: v.string(), by: v.string(), reason: v.string(), at: instant }),
  ),
  undelivered: v.array(
    v.object({ id, number: v.string(), name: v.string(), to: v.string(), problem: v.string() }),
  ),
  cleared: v.array(agreementSummarySchema),
  clearedTotal: count,
  returned: v.array(v.object({ note: v.string(), agreement: agreementSummarySchema })),
  waiting: v.array(agreementSummarySchema),
  waitingTotal: count,
})
