import * as v from 'valibot'

/** A UUID. */
export const id = v.pipe(v.string(), v.uuid())
/** ISO 8601 instant in UTC. */
export const instant = v.pipe(v.string(), v.isoTimestamp())
/** A line of text, trimmed, of 200 characters at the most. */
export const shortText = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200))
/** A whole number from 0. */
export const count = v.pipe(v.number(), v.integer(), v.minValue(0))
/** A whole number in a query. */
export const wholeNumber = v.pipe(v.string(), v.regex(/^\d{1,9}$/), v.transform(Number))
/** The name of a file in the store. */
export { sha256Schema as sha256 } from '#core/text/sha256.ts'
/** An address that names one thing by its id. */
export const idParams = v.object({ id })
const plainValue = v.union([v.string(), v.boolean()])
/** A field’s value as data keep it: text (numbers and dates too, as decimals and ISO 8601), yes or no, or items of a list. */
export const fieldValue = v.union([plainValue, v.array(v.record(v.string(), plainValue))])
/** Values by field. */
export const recordData = v.record(v.string(), fieldValue)

/** An entry of a chain: what happened, who did it, when, with what. */
export const chainEntry = {
  seq: v.number(),
  at: v.string(),
  actor: v.string(),
  act: v.string(),
  detail: v.record(v.string(), v.union([v.string(), v.number(), v.boolean(), v.null()])),
  previous: v.string(),
  hash: v.string(),
}

/** What agreements are made of, where it is named by either of two members. */
export const eitherOr = <T extends object>(first: keyof T, second: keyof T) =>
  v.check<T, string>(
    (named) => (typeof named[first] === 'string') !== (typeof named[second] === 'string'),
    'Name a template or a packet.',
  )

/** A page of a longer list. */
export const pageQuery = v.object({
  offset: v.optional(wholeNumber, '0'),
  limit: v.optional(v.pipe(wholeNumber, v.maxValue(1000)), '200'),
})
/** Of an upload: the file's name as it was chosen. */
export const uploadQuery = v.object({ name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)) })
