import { MOST_ITEMS } from '#core/mapping/nested.ts'
import { FIELD_TYPES } from '#core/outline/field-kinds.ts'
import * as v from 'valibot'
import { count, eitherOr, id, shortText } from './basics.ts'
import { RECORD_KINDS } from '#core/records/kinds.ts'

/** Records that an agreement can be made of by itself. */
export const oneAgreementParams = v.object({ kind: v.picklist(['customer', 'contact', 'deal']), id })

const typedText = v.pipe(v.string(), v.maxLength(20_000))

const given = {
  /** One of the two. */
  templateId: v.optional(v.nullable(id), null),
  packetId: v.optional(v.nullable(id), null),
  /** Values given for this one agreement, as typed, by field; they go before what the record says. */
  answers: v.optional(
    v.pipe(
      v.record(v.pipe(v.string(), v.maxLength(200)), typedText),
      v.check((answers) => Object.keys(answers).length <= 500, 'These are more values than a template has.'),
    ),
    {},
  ),
}
/** What one agreement is to be made of, before it is made. */
export const oneAgreementAsked = v.pipe(v.object(given), eitherOr('templateId', 'packetId'))

const lists = {
  /** The items of lists, as typed, by the list's name: where no record gives them. */
  lists: v.optional(
    v.pipe(
      v.record(
        v.pipe(v.string(), v.maxLength(200)),
        v.pipe(v.array(v.record(v.pipe(v.string(), v.maxLength(200)), typedText)), v.maxLength(MOST_ITEMS)),
      ),
      v.check((each) => Object.keys(each).length <= 50, 'These are more lists than a template has.'),
    ),
    {},
  ),
}
/** The same without a record: all its values are typed. */
export const typedAgreementAsked = v.pipe(
  v.object({ ...given, ...lists }),
  eitherOr('templateId', 'packetId'),
)

const itemField = v.object({
  name: v.string(),
  label: v.string(),
  type: v.picklist(FIELD_TYPES),
  required: v.boolean(),
  choices: v.nullable(v.array(v.string())),
})

/** One value that the agreement takes, where from, and what is wrong with it. */
const oneValue = v.object({
  name: v.string(),
  label: v.string(),
  type: v.picklist(FIELD_TYPES),
  /** The list that it is an item's value of. */
  list: v.nullable(v.string()),
  required: v.boolean(),
  help: v.nullable(v.string()),
  example: v.nullable(v.string()),
  choices: v.nullable(v.array(v.string())),
  /** Of a list: what each of its items has. */
  items: v.array(itemField),
  /** Of a list: what is wrong with an item, by its place from 0. */
  itemProblems: v.array(v.object({ item: v.number(), name: v.string(), message: v.string() })),
  /** As the agreement would show it; null: there is none. */
  said: v.nullable(v.string()),
  /** The record's column that it comes from; null: it was given here, or by default. */
  column: v.nullable(v.string()),
  problem: v.nullable(v.string()),
  /** Nothing is wrong but that there is none. */
  missing: v.boolean(),
})

/** What would be made, with its pages and what is missing. Nothing is kept of it. */
export const oneAgreementProof = v.object({
  name: v.string(),
  /** The record's name; null: its values are typed. */
  record: v.nullable(v.string()),
  documents: v.array(v.object({ title: v.string(), edition: v.number() })),
  values: v.array(oneValue),
  /** What keeps it from being made and is no single value's fault. */
  problems: v.array(v.string()),
  /** Of the same customer: an agreement from this template that has not ended. */
  live: v.nullable(v.string()),
  people: v.array(v.object({ label: v.string(), name: v.string(), email: v.string(), order: v.number() })),
  approvals: v.array(v.object({ approver: shortText, reason: v.string() })),
  pages: count,
  overflow: v.array(v.string()),
  /** The pages in base64; null: they could not be drawn. */
  pdf: v.nullable(v.string()),
})
export type OneAgreementProof = v.InferOutput<typeof oneAgreementProof>

const making = {
  /** Made by whoever asks: asked again under the same one, nothing is made twice. */
  occasion: id,
  /** Even where the customer has a live agreement from this template. */
  another: v.optional(v.boolean(), false),
}
/** What is to be made. */
export const oneAgreementMade = v.pipe(v.object({ ...given, ...making }), eitherOr('templateId', 'packetId'))
/** What is to be made of values that are typed. */
export const typedAgreementMade = v.pipe(
  v.object({ ...given, ...lists, ...making }),
  eitherOr('templateId', 'packetId'),
)

/** Whether a kind of record can be made an agreement of. */
export const isMadeOf = (kind: (typeof RECORD_KINDS)[number]): kind is 'customer' | 'contact' | 'deal' =>
  kind !== 'price'
