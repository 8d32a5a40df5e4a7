import * as v from 'valibot'

export const id = v.pipe(v.string(), v.uuid())
/** ISO 8601 instant in UTC. */
export const instant = v.pipe(v.string(), v.isoTimestamp())
export const shortText = v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200))
export const count = v.pipe(v.number(), v.integer(), v.minValue(0))
export const wholeNumber = v.pipe(v.string(), v.regex(/^\d{1,9}$/), v.transform(Number))
/** The name of a file in the store. */
export const sha256 = v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))
export const idParams = v.object({ id })
const plainValue = v.union([v.string(), v.boolean()])
export const fieldValue = v.union([plainValue, v.array(v.record(v.string(), plainValue))])
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

/** A page of a longer list. */
export const pageQuery = v.object({
  offset: v.optional(wholeNumber, '0'),
  limit: v.optional(v.pipe(wholeNumber, v.maxValue(1000)), '200'),
})
export const done = v.object({ done: v.literal(true) })
/** Of an upload: the file's name as it was chosen. */
export const uploadQuery = v.object({ name: v.pipe(v.string(), v.minLength(1), v.maxLength(200)) })
