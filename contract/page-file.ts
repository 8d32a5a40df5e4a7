import * as v from 'valibot'
import { BLANK_KINDS } from '#core/document/tree.ts'
import { FOUND_KINDS, type FoundField, type PageRead } from '#core/form/page-read.ts'
import { CARRIED } from '#core/form/replace.ts'
import { id, sha256, shortText } from './basics.ts'
import { importRemark } from './template.ts'

const box = { x: v.number(), y: v.number(), width: v.number(), height: v.number() }
const at = v.object({ x: v.number(), y: v.number() })

/** A field that a file has itself, where it stands (`core/form/page-read.ts`). */
export const foundFieldSchema: v.GenericSchema<FoundField> = v.object({
  name: v.string(),
  label: v.string(),
  kind: v.picklist(FOUND_KINDS),
  page: v.number(),
  box: v.object(box),
  required: v.boolean(),
  options: v.optional(v.array(v.string())),
  ticks: v.optional(v.object({ size: v.number(), at: v.array(at) })),
  maxLength: v.optional(v.number()),
  comb: v.optional(v.boolean()),
  lines: v.optional(v.number()),
  blank: v.optional(
    v.object({ kind: v.picklist(BLANK_KINDS), role: v.string(), prefill: v.optional(v.string()) }),
  ),
  format: v.optional(v.string()),
  value: v.optional(v.string()),
})

/** A file of pages: sizes in points. */
export const pageFileSchema = v.object({
  file: sha256,
  name: v.string(),
  pages: v.array(v.object({ width: v.number(), height: v.number() })),
  fields: v.array(foundFieldSchema),
})

/** A form that a file is another version of; `like` from 0 to 1. */
export const knownFormSchema = v.object({ template: id, name: v.string(), file: sha256, like: v.number() })

/** A file that was brought in, what did not come along with it, and forms it is a version of. */
export const broughtInSchema = v.object({
  ...pageFileSchema.entries,
  report: v.array(importRemark),
  known: v.array(knownFormSchema),
})

/** A form that is to be made of files, in this order. */
export const formStart = v.object({
  title: shortText,
  shelf: v.nullable(id),
  files: v.pipe(v.array(sha256), v.minLength(1), v.maxLength(20)),
  /** A form whose places are taken over: its file is the first of these in another version. */
  like: v.optional(v.object({ template: id, file: sha256 })),
})

const spot = v.object({ page: v.number(), x: v.number(), y: v.number() })
/** Where something went when its file was replaced (`core/form/replace.ts`). */
export const carriedSchema = v.object({
  id: v.string(),
  title: v.string(),
  how: v.picklist(CARRIED),
  from: spot,
  to: spot,
})
/** Where a phrase stands: its page among those of the draft, from 0; the left end of its baseline, in points. */
export const foundPhraseSchema = v.object({
  page: v.number(),
  x: v.number(),
  base: v.number(),
  right: v.number(),
})

/** What looks like a blank (`core/form/likely.ts`). */
export const likelySchema = v.object({
  page: v.number(),
  box: v.object(box),
  kind: v.picklist(['signature', 'initials', 'date', 'text', 'tick']),
  label: v.string(),
})

/** What was read on a page; places in points from its top left corner. */
export const pageReadSchema: v.GenericSchema<PageRead> = v.object({
  width: v.number(),
  height: v.number(),
  words: v.array(v.object({ text: v.string(), ...box, base: v.number(), size: v.number() })),
  lines: v.array(v.object({ x1: v.number(), y1: v.number(), x2: v.number(), y2: v.number() })),
  boxes: v.array(v.object(box)),
})
