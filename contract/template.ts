import * as v from 'valibot'
import { ROLE_SHAPES } from '#core/document/template.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { BLANK_KINDS } from '#core/document/tree.ts'
import type { Block, Inline } from '#core/document/tree.ts'
import { FIELD_TYPES } from '#core/outline/field.ts'
import { id, instant, shortText } from './basics.ts'

const name = v.pipe(v.string(), v.minLength(1), v.maxLength(120))
const expression = v.pipe(v.string(), v.maxLength(10_000))

const field = v.object({
  name,
  label: shortText,
  type: v.picklist(FIELD_TYPES),
  required: v.boolean(),
  choices: v.optional(v.pipe(v.array(v.string()), v.maxLength(200))),
  currency: v.optional(v.pipe(v.string(), v.regex(/^[A-Z]{3}$/))),
  example: v.optional(v.pipe(v.string(), v.maxLength(500))),
  computed: v.optional(expression),
})

const attributes = { id: v.pipe(v.string(), v.regex(/^[\w-]{1,60}$/)), condition: v.nullable(expression) }
const marks = v.optional(v.pipe(v.array(v.object({ type: v.picklist(['bold', 'italic']) })), v.maxLength(2)))

const inline: v.GenericSchema<Inline> = v.variant('type', [
  v.object({ type: v.literal('text'), text: v.pipe(v.string(), v.maxLength(50_000)), marks }),
  v.object({
    type: v.literal('mergeField'),
    attrs: v.object({ field: name, format: v.nullable(v.pipe(v.string(), v.maxLength(40))) }),
    marks,
  }),
  v.object({
    type: v.literal('blank'),
    attrs: v.object({
      id: attributes.id,
      kind: v.picklist(BLANK_KINDS),
      role: name,
      label: v.pipe(v.string(), v.maxLength(120)),
      required: v.boolean(),
    }),
  }),
  v.object({ type: v.literal('hardBreak') }),
])

const inlines = v.optional(v.pipe(v.array(inline), v.maxLength(2000)))

const block: v.GenericSchema<Block> = v.lazy((): v.GenericSchema<Block> => anyBlock)
const blocks = v.pipe(v.array(block), v.maxLength(2000))

const anyBlock: v.GenericSchema<Block> = v.variant('type', [
  v.object({
    type: v.literal('heading'),
    attrs: v.object({ ...attributes, level: v.picklist([1, 2, 3]) }),
    content: inlines,
  }),
  v.object({ type: v.literal('paragraph'), attrs: v.object(attributes), content: inlines }),
  v.object({ type: v.literal('clause'), attrs: v.object(attributes), content: blocks }),
  v.object({
    type: v.literal('bulletList'),
    attrs: v.object(attributes),
    content: v.pipe(v.array(v.object({ type: v.literal('listItem'), content: blocks })), v.maxLength(500)),
  }),
  v.object({
    type: v.literal('signatureBlock'),
    attrs: v.object({ ...attributes, roles: v.pipe(v.array(name), v.maxLength(25)) }),
  }),
  v.object({ type: v.literal('pageBreak'), attrs: v.object(attributes) }),
])

const fillRule = v.variant('rule', [
  v.object({ rule: v.literal('record'), name, email: name, title: v.nullable(name) }),
  v.object({
    rule: v.literal('standing person'),
    name: shortText,
    email: v.pipe(v.string(), v.email()),
    title: v.pipe(v.string(), v.maxLength(120)),
  }),
])

const pattern = v.pipe(v.string(), v.maxLength(5000))

export const templateContentSchema: v.GenericSchema<TemplateContent> = v.object({
  title: shortText,
  language: v.pipe(v.string(), v.regex(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/)),
  outline: v.pipe(v.array(field), v.maxLength(500)),
  roles: v.pipe(
    v.array(
      v.object({
        key: name,
        label: shortText,
        shape: v.picklist(ROLE_SHAPES),
        order: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(25)),
        fill: fillRule,
      }),
    ),
    v.maxLength(25),
  ),
  initialsOnEveryPage: v.pipe(v.array(name), v.maxLength(25)),
  document: v.object({ type: v.literal('doc'), content: blocks }),
  sending: v.object({
    agreementName: pattern,
    fileName: pattern,
    subject: pattern,
    message: pattern,
    signByDays: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(365)),
  }),
})

export const editionSchema = v.object({
  id,
  number: v.number(),
  publishedAt: instant,
  publishedBy: v.string(),
})
export type Edition = v.InferOutput<typeof editionSchema>

export const templateSummarySchema = v.object({
  id,
  name: v.string(),
  latestEdition: v.nullable(v.number()),
  changedAt: instant,
  changedBy: v.string(),
  draftDiffers: v.boolean(),
  agreements: v.number(),
})

export const templateSchema = v.object({
  id,
  name: v.string(),
  draft: templateContentSchema,
  draftVersion: v.number(),
  changedAt: instant,
  changedBy: v.string(),
  editions: v.array(editionSchema),
  draftDiffers: v.boolean(),
})

export const draftSave = v.object({
  version: v.pipe(v.number(), v.integer()),
  content: templateContentSchema,
})
export const draftSaved = v.object({ version: v.number(), changedAt: instant })

export const templateProblemSchema = v.object({
  where: v.picklist(['block', 'field', 'role', 'sending']),
  id: v.string(),
  title: v.string(),
  message: v.string(),
  from: v.nullable(v.number()),
  to: v.nullable(v.number()),
})

/** `row` counts as the spreadsheet counts; `step` moves to the row before or after it. */
export const proofRequest = v.object({
  templateId: id,
  content: templateContentSchema,
  sheetId: v.nullable(id),
  row: v.nullable(v.number()),
})

export const originSchema = v.object({
  field: v.string(),
  label: v.string(),
  format: v.string(),
  formula: v.nullable(v.string()),
  clause: v.nullable(v.string()),
  condition: v.nullable(v.string()),
  column: v.nullable(v.string()),
  cell: v.nullable(v.string()),
})

export const proofSchema = v.object({
  /** Base64; null where the template has faults. */
  pdf: v.nullable(v.string()),
  pages: v.number(),
  row: v.nullable(v.number()),
  rowLabel: v.string(),
  faults: v.array(templateProblemSchema),
  problems: v.array(
    v.object({ field: v.nullable(v.string()), block: v.nullable(v.string()), message: v.string() }),
  ),
  kept: v.array(v.string()),
  dropped: v.array(v.string()),
  origins: v.array(originSchema),
  milliseconds: v.number(),
})
