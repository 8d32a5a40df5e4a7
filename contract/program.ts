import * as v from 'valibot'
import { invitationWish } from './intake.ts'
import { STATES } from '#core/agreement/states.ts'
import { RUN_STATES } from '#core/run/states.ts'
import { ANSWER, DELIVERY, START } from '#core/states/all.ts'
import type { Json } from '#core/mapping/nested.ts'
import type { RecordData } from '#core/outline/field.ts'
import { count, eitherOr, id, instant, recordData, shortText, wholeNumber } from './basics.ts'
import { ACT_NAMES } from '#core/trail/acts.ts'
import { SCOPES } from './scope.ts'

/** A key as it is listed: never its secret. */
export const keySchema = v.object({
  id,
  name: v.string(),
  person: v.string(),
  /** The team that it is bound to. */
  team: v.nullable(v.string()),
  scopes: v.array(v.picklist(SCOPES)),
  /** The beginning of the key, to know it by. */
  begins: v.string(),
  createdAt: instant,
  createdBy: v.string(),
  expiresAt: v.nullable(instant),
  lastUsedAt: v.nullable(instant),
  revokedAt: v.nullable(instant),
  /** Until when the secret before the last rotation counts too. */
  formerUntil: v.nullable(instant),
})
/** A new key, or a rotated one: the secret is told here once and never again. */
export const newKeySchema = v.object({ id, secret: v.string() })
export const keyWish = v.object({
  name: shortText,
  /** Whose rights it has; none: whoever makes it. */
  person: v.optional(id),
  /** A team of theirs: it may no more than that team, and lives on when they leave. */
  team: v.optional(v.nullable(id), null),
  scopes: v.pipe(v.array(v.picklist(SCOPES)), v.minLength(1)),
  /** Days until it ends; null: it does not. */
  days: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(3650))),
})

/** JSON of any shape; how deep it may go is looked at before. */
const json = v.custom<{ readonly [name: string]: Json }>(
  (value) => typeof value === 'object' && value !== null && !Array.isArray(value),
  'These are values by name, in an object.',
)

/** What an agreement is made of: a template or a packet, by id. */
const madeOf = {
  template: v.optional(id),
  packet: v.optional(id),
}
/** The customer, contact or deal that it is about, and stays with. */
const about = { record: v.optional(id) }

export const startWish = v.pipe(
  v.strictObject({ ...madeOf, ...about, data: json }),
  eitherOr('template', 'packet'),
)
/** So many at once. */
export const MOST_STARTS = 500
export const startsWish = v.pipe(
  v.strictObject({
    ...madeOf,
    rows: v.pipe(v.array(v.strictObject({ ...about, data: json })), v.minLength(1), v.maxLength(MOST_STARTS)),
  }),
  eitherOr('template', 'packet'),
)

/** Rows of a run: what is wrong with one is mended there. */
export const runWish = v.pipe(
  v.strictObject({
    ...madeOf,
    name: shortText,
    rows: v.pipe(v.array(v.strictObject({ data: json })), v.minLength(1), v.maxLength(5000)),
  }),
  eitherOr('template', 'packet'),
)
export const programRunSchema = v.object({
  id,
  name: v.string(),
  state: v.picklist(RUN_STATES),
  at: v.string(),
  /** Of what is ready to be made, needs a hand, is made, could not be made. */
  rows: v.object({ ready: count, hand: count, made: count, failed: count }),
})

const pointed = v.object({ pointer: v.string(), message: v.string() })
/** Something a program asked for: taken (it is being made), made (there is an agreement), refused (with what is wrong). */
export const startSchema = v.object({
  id,
  state: v.picklist(START.states),
  /** Where to look, below the server’s address. */
  at: v.string(),
  agreement: v.nullable(id),
  problems: v.array(pointed),
})
/** One of several: what is wrong with it is told in its row, and keeps no other from being taken. */
export const startRowSchema = v.object({
  row: count,
  state: v.picklist(START.states),
  start: v.nullable(id),
  at: v.nullable(v.string()),
  problems: v.array(pointed),
})

export const programTemplateSchema = v.object({ id, name: v.string(), edition: v.number() })
export const programTemplateDetail = v.object({
  ...programTemplateSchema.entries,
  /** JSON Schema (2020-12) of the data that one agreement of it needs. */
  schema: v.record(v.string(), v.unknown()),
})

export const programPacketSchema = v.object({ id, name: v.string(), templates: v.array(v.string()) })
export const programPacketDetail = v.object({
  ...programPacketSchema.entries,
  /** JSON Schema (2020-12) of the data that all of its documents need, each value once. */
  schema: v.record(v.string(), v.unknown()),
})

export const programAgreementSchema = v.object({
  id,
  number: v.string(),
  name: v.string(),
  state: v.picklist(STATES),
  revision: v.number(),
  template: v.string(),
  /** The record that it is about. */
  record: v.nullable(id),
  createdAt: instant,
  changedAt: instant,
  executed: v.boolean(),
})
export const programAgreementDetail = v.object({
  ...programAgreementSchema.entries,
  parties: v.array(
    v.object({
      label: v.string(),
      name: v.string(),
      email: v.string(),
      order: v.number(),
      invitedAt: v.nullable(instant),
      openedAt: v.nullable(instant),
      signedAt: v.nullable(instant),
      declinedAt: v.nullable(instant),
    }),
  ),
  approvals: v.array(v.object({ approver: v.string(), reason: v.string(), state: v.string() })),
})
const paging = {
  cursor: v.optional(v.pipe(v.string(), v.maxLength(200))),
  limit: v.optional(v.pipe(wholeNumber, v.minValue(1), v.maxValue(500)), '100'),
}
/** By when they changed, the oldest change first, so that whoever asks again from `next` misses nothing. */
export const programAgreementsQuery = v.object({
  state: v.optional(v.picklist(STATES)),
  template: v.optional(id),
  record: v.optional(id),
  ...paging,
})
/** Records of one name, upper and lower case aside; or all, by when they changed. */
export const programRecordsQuery = v.object({
  name: v.optional(v.pipe(v.string(), v.maxLength(200))),
  ...paging,
})
/** Values as the record book keeps them. */
const keptData: v.GenericSchema<RecordData> = recordData
export const programRecordsSchema = v.object({
  records: v.array(
    v.object({ id, name: v.string(), data: keptData, customer: v.nullable(id), changedAt: instant }),
  ),
  next: v.nullable(v.string()),
  more: v.boolean(),
})
export const programAgreementsSchema = v.object({
  agreements: v.array(programAgreementSchema),
  /** To be given as `cursor` for what comes after; there whenever anything was answered. */
  next: v.nullable(v.string()),
  /** Whether there is more now. */
  more: v.boolean(),
})

/** A program that is told of what happens; its secret is told once. */
export const webhookSchema = v.object({
  id,
  name: v.string(),
  url: v.string(),
  /** Acts that it is told of; none: all. */
  acts: v.array(v.string()),
  createdAt: instant,
  createdBy: v.string(),
  /** Why it is told nothing more. */
  ended: v.nullable(v.string()),
  /** Since when it does not answer, and when it is tried again. */
  silentSince: v.nullable(instant),
  triedAgainAt: v.nullable(instant),
  waiting: count,
})
export const webhookWish = v.object({
  name: shortText,
  url: v.pipe(
    v.string(),
    v.url(),
    v.regex(/^https?:/i, 'An address begins with http:// or https://.'),
    v.maxLength(1000),
  ),
  acts: v.array(v.picklist(ACT_NAMES)),
})
/** What went wrong between a program and here, and whether it can be tried again. */
export const troubleSchema = v.object({
  kind: v.picklist(['webhook', 'start', 'connection']),
  id,
  name: v.string(),
  since: instant,
  problem: v.string(),
  again: v.boolean(),
})
/** One act that it was told, or is to be. */
export const deliverySchema = v.object({
  id: v.number(),
  agreement: id,
  number: v.string(),
  seq: count,
  act: v.string(),
  state: v.picklist(DELIVERY.states),
  tries: count,
  at: instant,
  status: v.nullable(v.number()),
  said: v.string(),
  endedAt: v.nullable(instant),
})

/** A form that people can be asked to answer. */
export const programFormSchema = v.object({ id, title: v.string(), makes: v.array(v.string()) })
export const programFormDetail = v.object({
  id,
  title: v.string(),
  /** JSON Schema (2020-12) of what can be given for whoever answers. */
  schema: v.record(v.string(), v.unknown()),
})
/** One person to be asked, with what is known of them. */
export const askWish = v.strictObject({
  ...invitationWish.entries,
  data: v.optional(json, {}),
})
/** `url`: the person’s own link, told once; null where the same was asked before. */
export const askedSchema = v.object({ id, at: v.string(), url: v.nullable(v.string()) })
export const programAnswerSchema = v.object({
  id,
  state: v.picklist(ANSWER.states),
  handedInAt: v.nullable(instant),
  record: v.nullable(id),
  agreements: v.array(id),
})
