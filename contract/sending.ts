import * as v from 'valibot'
import { STATES } from '#core/agreement/states.ts'
import { COURSES } from '#core/ceremony/sender-commands.ts'
import { CHECKS, MOST_PARTIES, PARTY_KINDS, WAYS } from '#core/ceremony/parties.ts'
import { LANGUAGES } from '#core/languages/language.ts'
import { isEmail } from '#core/outline/coerce.ts'
import { NOTICE_FORMS } from '#core/document/template.ts'
import { count, id, instant, shortText } from './basics.ts'

export const courseName = v.picklist(COURSES.map(({ name }) => name))

/** A mail address to send to (RFC 5321, and 6531 beyond ASCII). */
export const mailAddress = v.pipe(
  v.string(),
  v.trim(),
  v.maxLength(254),
  v.check(isEmail, 'This is not an email address.'),
)

/** What the sender does with an agreement that has gone out, or with one of its parties. */
export const courseSchema = v.variant('course', [
  v.object({ course: v.literal('remind'), party: id }),
  v.object({ course: v.literal('correct address'), party: id, email: mailAddress }),
  v.object({ course: v.literal('replace signer'), party: id, name: shortText, email: mailAddress }),
  v.object({
    course: v.literal('new agreed code'),
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
  /** A new agreed code; null: the one before counts on. */
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
  /** By the keys of roles; an agreed code is told to each by itself and is not set here. */
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

/** Agreements that are set up together. */
export const sendingMany = v.object({ agreements: manyIds })

/** What is set in many agreements at once. */
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

/** Messages that were saved for the next time. */
export const savedMessages = v.array(v.object({ id, ...savedMessageEntry.entries }))

/** Subject and message. */
export const messageText = v.object({
  subject: v.pipe(v.string(), v.maxLength(200)),
  message: v.pipe(v.string(), v.maxLength(5000)),
})

/** The same with its merge fields filled; `unknown`: names that this agreement has no field of. */
export const filledMessage = v.object({ ...messageText.entries, unknown: v.array(v.string()) })

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
