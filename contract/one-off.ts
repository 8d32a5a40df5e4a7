import * as v from 'valibot'
import { id, instant, sha256, shortText } from './basics.ts'
import { templateContentSchema } from './template.ts'

/** One agreement of a file, before it is made: its pages with what is placed on them, and the people who sign. */
export const oneOffSchema = v.object({
  id,
  name: v.string(),
  draft: templateContentSchema,
  draftVersion: v.number(),
  changedAt: instant,
  changedBy: v.string(),
  /** The customer, contact or deal that it belongs to. */
  record: v.nullable(v.object({ id, kind: v.picklist(['customer', 'contact', 'deal']), name: v.string() })),
  /** Once it is made. */
  agreement: v.nullable(id),
})

/** One that was begun and is not made yet. */
export const begunSchema = v.object({
  id,
  name: v.string(),
  changedAt: instant,
  changedBy: v.string(),
  record: v.nullable(v.string()),
})

/** Files that become one agreement, in this order. */
export const oneOffStart = v.object({
  title: shortText,
  files: v.pipe(v.array(sha256), v.minLength(1), v.maxLength(20)),
  record: v.nullable(id),
})
