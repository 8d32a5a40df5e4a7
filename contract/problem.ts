import * as v from 'valibot'

/** RFC 9457 problem details. `faults` says which part of what was sent is wrong (JSON pointer, RFC 6901). */
export const problemSchema = v.object({
  type: v.string(),
  title: v.string(),
  status: v.number(),
  detail: v.string(),
  faults: v.optional(v.array(v.object({ pointer: v.string(), detail: v.string() }))),
})
export type Problem = v.InferOutput<typeof problemSchema>
