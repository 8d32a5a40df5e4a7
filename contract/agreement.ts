import * as v from 'valibot'
import { filledSchema } from '#core/agreement/filled.ts'
import { STATES } from '#core/agreement/states.ts'
import { COURSES } from '#core/ceremony/sender-commands.ts'
import { GATES, PARTY_ACTS, STANDINGS } from '#core/ceremony/gates.ts'
import { CHECKS, MOST_PARTIES, PARTY_KINDS, WAYS } from '#core/ceremony/parties.ts'
import { LANGUAGES } from '#core/languages/language.ts'
import { isEmail } from '#core/outline/coerce.ts'
import { STEP } from '#core/states/all.ts'
import { NOTICE_FORMS } from '#core/document/template.ts'
import { BLANK_KINDS } from '#core/document/tree.ts'
import { RECORD_KINDS } from '#core/records/kinds.ts'
import { chainEntry, count, id, instant, sha256, shortText, wholeNumber } from './basics.ts'
import { bodySchema, templateContentSchema } from './template.ts'

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

const courseName = v.picklist(COURSES.map(({ name }) => name))

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

/** A mail address to send to (RFC 5321, and 6531 beyond ASCII). */
const mailAddress = v.pipe(
  v.string(),
  v.trim(),
  v.maxLength(254),
  v.check(isEmail, 'This is not a mail address.'),
)

/** What the sender does with an agreement that has gone out, or with one of its parties. */
export const courseSchema = v.variant('course', [
  v.object({ course: v.literal('remind'), party: id }),
  v.object({ course: v.literal('correct address'), party: id, email: mailAddress }),
  v.object({ course: v.literal('replace signer'), party: id, name: shortText, email: mailAddress }),
  v.object({
    course: v.literal('new access code'),
    party: id,
    code: v.pipe(v.string(), v.trim(), v.minLength(6, 'At least 6 characters.'), v.maxLength(60)),
  }),
  v.object({ course: v.literal('extend'), day: v.pipe(v.string(), v.isoDate('Choose a day.')) }),
  v.object({
    course: v.literal('take back'),
    reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(2000)),
  }),
  v.object({ course: v.literal('withdraw') }),
])
export type SentCommand = v.InferOutput<typeof courseSchema>

/** How one party is set up; one that is new has no id. A role's name stands in the document and is not changed here. */
export const partySetting = v.object({
  id: v.nullable(id),
  kind: v.picklist(PARTY_KINDS),
  name: shortText,
  email: v.pipe(v.string(), v.trim(), v.maxLength(254)),
  phone: v.pipe(v.string(), v.trim(), v.maxLength(40)),
  language: v.nullable(v.picklist(LANGUAGES)),
  order: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(MOST_PARTIES)),
  /** How their links reach them. */
  linkBy: v.optional(v.picklist(WAYS), 'mail'),
  check: v.picklist(CHECKS),
  /** A new access code; null: the one before counts on. */
  code: v.nullable(v.pipe(v.string(), v.trim(), v.minLength(6, 'At least 6 characters.'), v.maxLength(60))),
  message: v.pipe(v.string(), v.trim(), v.maxLength(2000)),
  mayDecline: v.boolean(),
  mayHandOver: v.boolean(),
  copyNow: v.boolean(),
})
export type PartySetting = v.InferOutput<typeof partySetting>

const remindDays = v.pipe(
  v.array(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(365))),
  v.maxLength(10),
)
/** How an agreement goes out: who, in which order, with which words, until when, reminded when. */
export const sendingSchema = v.object({
  subject: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write a subject.'), v.maxLength(200)),
  message: v.pipe(v.string(), v.trim(), v.maxLength(5000)),
  /** ISO 8601; null: so many days after it goes, as its template or a rule says. */
  signByDay: v.nullable(v.pipe(v.string(), v.isoDate('Choose a day.'))),
  plan: v.object({ after: remindDays, unopened: remindDays, before: remindDays }),
  parties: v.pipe(v.array(partySetting), v.minLength(1), v.maxLength(2 * MOST_PARTIES)),
  /** The team in whose name it goes; null: in the sender's own. */
  team: v.nullable(id),
})
export type Sending = v.InferOutput<typeof sendingSchema>

/** A recorded word of the sender's, without the recording itself. */
export const introductionSchema = v.object({ kind: v.picklist(['sound', 'film']), transcript: v.string() })
/** What is said in it. */
export const transcriptSchema = v.object({ transcript: v.pipe(v.string(), v.trim(), v.maxLength(8000)) })

/** Which pages of a copy on paper have come back. */
export const paperSheet = v.object({
  pages: count,
  have: v.array(v.object({ page: count, at: instant, by: v.string() })),
  /** Those that are still needed: the ones with a place of this party's. */
  missing: v.array(count),
  /** Why it cannot be put back now; null: it can, once all needed pages are there. */
  refusal: v.nullable(v.string()),
})
/** What was found in a scan: pages of this agreement, those on which nothing was signed, of others, and those without a code that can be read. */
export const scanTaken = v.object({
  taken: v.array(count),
  unsigned: v.array(count),
  others: count,
  unknown: count,
  sheet: paperSheet,
})

/** The same as it stands, with what each party would get. */
export const sendingSheet = v.object({
  ...sendingSchema.entries,
  /** Teams in whose names whoever looks may send. */
  teams: v.array(v.object({ id, name: v.string() })),
  introduction: v.nullable(introductionSchema),
  notice: v.nullable(v.picklist(NOTICE_FORMS)),
  /** When it goes by itself. */
  goesAt: v.nullable(instant),
  /** Days to sign where no day is set. */
  signDays: v.number(),
  /** Today, where the organisation is: ISO 8601. */
  today: v.string(),
  /** Why it cannot be set now; null: it can. */
  refusal: v.nullable(v.string()),
  /** Each party's mail as it would be now, and what is doubtful about them; by the parties' places. */
  previews: v.array(
    v.object({
      language: v.picklist(LANGUAGES),
      subject: v.string(),
      paragraphs: v.array(v.string()),
      button: v.string(),
      doubts: v.array(v.string()),
    }),
  ),
})

/** What is set of many at once; what is not named stays as each of them has it. */
export const commonSending = v.object({
  /** Patterns over the fields of each, `{{buyer.name}}`. */
  subject: v.optional(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200))),
  message: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(5000))),
  /** ISO 8601; null: so many days after each goes. */
  signByDay: v.optional(v.nullable(v.pipe(v.string(), v.isoDate('Choose a day.')))),
  plan: v.optional(sendingSchema.entries.plan),
  team: v.optional(v.nullable(id)),
  /** By the keys of roles; an access code is told to each by itself and is not set here. */
  roles: v.optional(
    v.pipe(
      v.record(
        v.pipe(v.string(), v.maxLength(60)),
        v.object({
          order: v.optional(partySetting.entries.order),
          check: v.optional(v.picklist(['link', 'mail code', 'text code'])),
          language: v.optional(partySetting.entries.language),
          message: v.optional(partySetting.entries.message),
          mayDecline: v.optional(v.boolean()),
          mayHandOver: v.optional(v.boolean()),
        }),
      ),
      v.check((roles) => Object.keys(roles).length <= MOST_PARTIES, `At most ${MOST_PARTIES} roles.`),
    ),
  ),
  /** Who gets a copy besides. */
  copies: v.optional(
    v.pipe(v.array(v.object({ name: shortText, email: mailAddress, copyNow: v.boolean() })), v.maxLength(10)),
  ),
})
export type CommonSending = v.InferOutput<typeof commonSending>
const manyIds = v.pipe(v.array(id), v.minLength(1), v.maxLength(1000))
export const sendingMany = v.object({ agreements: manyIds })
export const setSendingMany = v.object({ agreements: manyIds, common: commonSending })
/** What became of them. */
export const setMany = v.object({
  set: count,
  refused: v.array(v.object({ number: v.string(), problem: v.string() })),
})
/** Many as they would go out; null stands for what is not the same in all of them. */
export const sendingSheets = v.object({
  today: v.string(),
  teams: v.array(v.object({ id, name: v.string() })),
  team: v.nullable(id),
  /** Names that patterns may say. */
  fields: v.array(v.string()),
  subject: v.nullable(v.string()),
  message: v.nullable(v.string()),
  signByDay: v.nullable(v.string()),
  signDays: v.nullable(v.number()),
  plan: v.nullable(sendingSchema.entries.plan),
  notice: v.nullable(v.picklist(NOTICE_FORMS)),
  roles: v.array(
    v.object({
      role: v.string(),
      label: v.string(),
      count,
      order: v.nullable(v.number()),
      check: v.nullable(v.picklist(CHECKS)),
      mayDecline: v.nullable(v.boolean()),
      mayHandOver: v.nullable(v.boolean()),
    }),
  ),
  rows: v.array(
    v.object({
      id,
      number: v.string(),
      name: v.string(),
      state: v.picklist(STATES),
      parties: v.array(v.object({ label: v.string(), name: v.string(), email: v.string() })),
      doubts: v.array(v.string()),
      /** In what it is not as most of them are. */
      differs: v.array(v.string()),
      goesAt: v.nullable(instant),
      /** Why it cannot go; null: it can. */
      refusal: v.nullable(v.string()),
    }),
  ),
})
/** Words to send with, kept for the next time. */
export const savedMessageEntry = v.object({
  name: shortText,
  subject: v.pipe(v.string(), v.trim(), v.maxLength(200)),
  message: v.pipe(v.string(), v.trim(), v.maxLength(5000)),
})
export const savedMessages = v.array(v.object({ id, ...savedMessageEntry.entries }))
export const messageText = v.object({
  subject: v.pipe(v.string(), v.maxLength(200)),
  message: v.pipe(v.string(), v.maxLength(5000)),
})
/** The same with its merge fields filled; `unknown`: names that this agreement has no field of. */
export const filledMessage = v.object({ ...messageText.entries, unknown: v.array(v.string()) })

/** Somebody who signs in the bearer's place. */
export const handOverSchema = v.object({
  name: shortText,
  email: mailAddress,
  reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(500)),
})
/** A question of a party's; `passage`: the words it is about. */
export const partyAsks = v.object({
  text: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write your question.'), v.maxLength(2000)),
  passage: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(300)), ''),
})
/** What is answered. */
export const partyAnswer = v.object({
  answer: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write an answer.'), v.maxLength(4000)),
})
/** A code that was told or sent. */
export const codeSchema = v.object({ code: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(60)) })
/** A language of the page. */
export const languageChoice = v.object({ language: v.picklist(LANGUAGES) })

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

/** Where an agreement comes from (`core/agreement/origin.ts`). */
export const originSchema = v.variant('kind', [
  v.object({ kind: v.literal('row'), run: id, row: v.number() }),
  v.object({ kind: v.literal('record'), record: id }),
  v.object({ kind: v.literal('file'), file: sha256 }),
  v.object({ kind: v.literal('answer'), form: id, answer: id }),
  v.object({ kind: v.literal('call'), key: id, reference: v.string() }),
  v.object({ kind: v.literal('aftermath'), agreement: v.string(), step: v.string() }),
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

/** Agreements to send; each is sent or refused by itself. */
export const sendMany = v.object({
  agreements: v.pipe(v.array(id), v.minLength(1), v.maxLength(1000)),
  /** Sends even what nobody has read in this wording; the trail keeps that. */
  unread: v.optional(v.boolean(), false),
  /** When they go by themselves; none: at once. */
  at: v.optional(v.nullable(instant), null),
})
/** What became of them; those refused say why. */
export const sentMany = v.object({
  sent: count,
  refused: v.array(v.object({ number: v.string(), problem: v.string() })),
  /** Of those refused: because nobody has read their wording. */
  unread: count,
})

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

/** The token of a signing link, base64url of 32 bytes. */
export const tokenParams = v.object({ token: v.pipe(v.string(), v.regex(/^[\w-]{43}$/)) })

/** What a signing link leads to. Anything but `open` says why nothing can be signed here. */
export const signingSchema = v.object({
  /** What the pages are written in, BCP 47; values are shown on them so. */
  documentLanguage: v.string(),
  status: v.picklist(STANDINGS),
  /** The language they are spoken to in. */
  language: v.picklist(LANGUAGES),
  /** What is passed one after the other, and what may be done now (core/ceremony/gates.ts). */
  gates: v.array(v.object({ gate: v.picklist(GATES), passed: v.boolean() })),
  may: v.array(v.picklist(PARTY_ACTS)),
  /** What they have to show, and the end of the address that a code is sent to. */
  check: v.object({ kind: v.picklist(CHECKS), to: v.string() }),
  kind: v.picklist(PARTY_KINDS),
  /** Whose device it is, where somebody signs there in person. */
  atDeviceOf: v.nullable(v.string()),
  /** A spoken or filmed word of the sender's, with what is said in it. */
  introduction: v.nullable(introductionSchema),
  /** What the sender writes to all, and to them alone. */
  message: v.string(),
  alone: v.string(),
  questions: v.array(
    v.object({
      id,
      passage: v.string(),
      text: v.string(),
      askedAt: instant,
      answer: v.nullable(v.string()),
    }),
  ),
  name: v.string(),
  title: v.string(),
  from: v.string(),
  role: v.string(),
  signBy: v.nullable(instant),
  /** The day it ends on, where the sender is: ISO 8601. */
  signByDay: v.nullable(v.string()),
  consented: v.boolean(),
  pages: v.number(),
  blanks: v.array(
    v.object({
      id: v.string(),
      kind: v.picklist(BLANK_KINDS),
      label: v.string(),
      required: v.boolean(),
      page: v.number(),
      x: v.number(),
      y: v.number(),
      width: v.number(),
      height: v.number(),
      rules: v.object({
        preset: v.optional(v.string()),
        options: v.optional(v.array(v.string())),
        least: v.optional(v.number()),
        most: v.optional(v.number()),
        check: v.optional(v.string()),
        message: v.optional(v.string()),
        group: v.optional(v.object({ name: v.string(), least: v.number(), most: v.nullable(v.number()) })),
      }),
      options: v.array(v.object({ page: v.number(), x: v.number(), y: v.number() })),
    }),
  ),
  values: v.record(v.string(), filledSchema),
})
export type Signing = v.InferOutput<typeof signingSchema>
/** A blank with what was put into it. */
export const blankFill = v.object({
  values: v.pipe(
    v.record(v.pipe(v.string(), v.maxLength(120)), v.nullable(filledSchema)),
    v.check((values) => Object.keys(values).length <= 200, 'At most 200 blanks are filled at once.'),
  ),
})
/** Why a signer refuses. */
export const declineSchema = v.object({
  reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(2000)),
})
/** Whether theirs was the last signature. */
export const finishedSchema = v.object({ executed: v.boolean() })
