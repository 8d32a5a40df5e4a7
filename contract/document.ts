import { FIELD_TYPES } from '#core/outline/field-kinds.ts'
import * as v from 'valibot'
import {
  BLANK_KINDS,
  type Block,
  type Body,
  type Clause,
  type Inline,
  MARKS,
  type PagesTree,
  PLACED_FONTS,
  TURNS,
} from '#core/document/tree.ts'
import { ROUNDINGS } from '#core/money/currency.ts'
import { type Field } from '#core/outline/field.ts'
import { id, sha256 } from './basics.ts'

/** A name of a field, role or the like. */
export const name = v.pipe(v.string(), v.minLength(1), v.maxLength(120))

/** An expression of FEEL, as typed. */
export const expression = v.pipe(v.string(), v.maxLength(10_000))

const plainField = {
  name,
  label: v.pipe(v.string(), v.trim(), v.maxLength(200)),
  type: v.picklist(FIELD_TYPES),
  required: v.boolean(),
  choices: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(200))), v.maxLength(200))),
  currency: v.optional(v.pipe(v.string(), v.regex(/^[A-Z]{3}$/))),
  example: v.optional(v.pipe(v.string(), v.maxLength(2000))),
  default: v.optional(v.pipe(v.string(), v.maxLength(2000))),
  help: v.optional(v.pipe(v.string(), v.maxLength(500))),
  format: v.optional(v.pipe(v.string(), v.maxLength(40))),
  computed: v.optional(expression),
}

/** A field of a data outline (`core/outline/field.ts`). */
export const fieldSchema: v.GenericSchema<Field> = v.object({
  ...plainField,
  items: v.optional(v.pipe(v.array(v.object(plainField)), v.maxLength(60))),
  lineItems: v.optional(
    v.object({
      quantity: v.nullable(name),
      price: name,
      discount: v.nullable(name),
      taxRate: v.nullable(name),
      overallDiscount: v.nullable(name),
      rounding: v.picklist(ROUNDINGS),
    }),
  ),
})

const passage = {
  id: v.pipe(v.string(), v.regex(/^[\w-]{1,60}$/)),
  condition: v.nullable(expression),
  alternative: v.optional(v.boolean()),
  repeat: v.optional(v.nullable(name)),
}

const attributes = { ...passage, keep: v.optional(v.boolean()) }

const marks = v.optional(v.pipe(v.array(v.object({ type: v.picklist(MARKS) })), v.maxLength(3)))

const label = v.pipe(v.string(), v.maxLength(200))

export const few = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(100))

/** The number of another clause, shown where it is referred to. */
export const referenceSchema = v.object({
  clause: passage.id,
  form: v.picklist(['number', 'number and title']),
  fallback: v.nullable(label),
})

/** A place that a signer fills. */
export const blankSchema = v.object({
  id: passage.id,
  kind: v.picklist(BLANK_KINDS),
  role: name,
  label,
  required: v.boolean(),
  condition: v.optional(v.nullable(expression)),
  prefill: v.optional(v.nullable(name)),
  locked: v.optional(v.boolean()),
  check: v.optional(v.nullable(expression)),
  message: v.optional(v.nullable(label)),
  options: v.optional(v.pipe(v.array(label), v.maxLength(40))),
  least: v.optional(few),
  most: v.optional(few),
  group: v.optional(v.nullable(name)),
})

const mergeField = v.object({
  type: v.literal('mergeField'),
  attrs: v.object({ field: name, format: v.nullable(v.pipe(v.string(), v.maxLength(40))) }),
  marks,
})

const blankPlace = v.object({ type: v.literal('blank'), attrs: blankSchema })

const anyInline: v.GenericSchema<Inline> = v.lazy((): v.GenericSchema<Inline> => inline)

const inlines = v.optional(v.pipe(v.array(anyInline), v.maxLength(2000)))

const inline: v.GenericSchema<Inline> = v.variant('type', [
  v.object({ type: v.literal('text'), text: v.pipe(v.string(), v.maxLength(50_000)), marks }),
  mergeField,
  v.object({ type: v.literal('phrase'), attrs: v.object(passage), content: inlines }),
  v.object({
    type: v.literal('reference'),
    attrs: referenceSchema,
    marks,
  }),
  blankPlace,
  v.object({ type: v.literal('hardBreak') }),
])

const anyBlock: v.GenericSchema<Block> = v.lazy((): v.GenericSchema<Block> => block)

const blocks = v.pipe(v.array(anyBlock), v.maxLength(2000))

const listItems = v.pipe(
  v.array(v.object({ type: v.literal('listItem'), attrs: v.optional(v.object(passage)), content: blocks })),
  v.maxLength(500),
)

const cells = v.pipe(
  v.array(
    v.object({
      type: v.picklist(['tableCell', 'tableHeader']),
      attrs: v.object({
        colspan: v.pipe(few, v.minValue(1)),
        rowspan: v.pipe(few, v.minValue(1)),
        colwidth: v.nullable(v.pipe(v.array(v.number()), v.maxLength(60))),
        align: v.optional(v.nullable(v.picklist(['left', 'center', 'right']))),
      }),
      content: blocks,
    }),
  ),
  v.maxLength(60),
)

const block: v.GenericSchema<Block> = v.variant('type', [
  v.object({
    type: v.literal('heading'),
    attrs: v.object({ ...attributes, level: v.picklist([1, 2, 3]) }),
    content: inlines,
  }),
  v.object({ type: v.literal('paragraph'), attrs: v.object(attributes), content: inlines }),
  v.object({
    type: v.literal('clause'),
    attrs: v.object({
      ...attributes,
      source: v.optional(
        v.nullable(v.object({ clause: id, edition: v.pipe(v.number(), v.integer()), linked: v.boolean() })),
      ),
    }),
    content: blocks,
  }),
  v.object({ type: v.literal('bulletList'), attrs: v.object(attributes), content: listItems }),
  v.object({ type: v.literal('orderedList'), attrs: v.object(attributes), content: listItems }),
  v.object({
    type: v.literal('table'),
    attrs: v.object(attributes),
    content: v.pipe(
      v.array(v.object({ type: v.literal('tableRow'), attrs: v.object(passage), content: cells })),
      v.minLength(1),
      v.maxLength(500),
    ),
  }),
  v.object({
    type: v.literal('image'),
    attrs: v.object({
      ...attributes,
      file: sha256,
      alt: v.pipe(v.string(), v.maxLength(500)),
      width: v.pipe(v.number(), v.minValue(1), v.maxValue(100)),
      align: v.optional(v.picklist(['left', 'center', 'right'])),
    }),
  }),
  v.object({
    type: v.literal('signatureBlock'),
    attrs: v.object({ ...attributes, roles: v.pipe(v.array(name), v.maxLength(25)) }),
  }),
  v.object({ type: v.literal('pageBreak'), attrs: v.object(attributes) }),
])

/** A numbered unit of wording (`core/document/tree.ts`). */
export const clauseSchema: v.GenericSchema<Clause> = v.pipe(
  block,
  v.check((found) => found.type === 'clause', 'Only clauses are kept in the library.'),
) as unknown as v.GenericSchema<Clause>

/** The text of a template, or of one agreement. */
export const documentSchema = v.object({ type: v.literal('doc'), content: blocks })

const point = v.pipe(v.number(), v.minValue(-20_000), v.maxValue(20_000))

const side = v.pipe(v.number(), v.minValue(1), v.maxValue(20_000))

const spots = v.pipe(v.array(v.object({ x: point, y: point })), v.maxLength(40))

const styleSchema = v.object({
  font: v.picklist(PLACED_FONTS),
  size: v.pipe(v.number(), v.minValue(3), v.maxValue(72)),
  align: v.picklist(['left', 'center', 'right']),
  least: v.nullable(v.pipe(v.number(), v.minValue(2), v.maxValue(72))),
  lines: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(200)),
  comb: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(200))),
})

const placementSchema = v.object({
  type: v.literal('placement'),
  attrs: v.object({
    ...passage,
    x: point,
    y: point,
    width: side,
    height: side,
    style: v.optional(styleSchema),
    cue: v.optional(
      v.nullable(
        v.object({
          phrase: v.pipe(v.string(), v.minLength(1), v.maxLength(300)),
          nth: v.union([
            v.literal('every'),
            v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(5000)),
          ]),
          dx: point,
          dy: point,
        }),
      ),
    ),
    of: v.optional(v.nullable(passage.id)),
    lost: v.optional(v.literal(true)),
    ticks: v.optional(v.object({ size: side, at: spots })),
  }),
  content: v.pipe(
    v.array(
      v.variant('type', [
        v.object({ type: v.literal('text'), text: v.pipe(v.string(), v.maxLength(5000)), marks }),
        mergeField,
        blankPlace,
      ]),
    ),
    v.maxLength(40),
  ),
})

/** Pages of files with what is placed on them. */
export const pagesSchema: v.GenericSchema<PagesTree> = v.object({
  type: v.literal('pages'),
  content: v.pipe(
    v.array(
      v.object({
        type: v.literal('page'),
        attrs: v.object({
          ...passage,
          file: sha256,
          page: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(5000)),
          turn: v.picklist(TURNS),
          width: side,
          height: side,
        }),
        content: v.pipe(v.array(placementSchema), v.maxLength(1000)),
      }),
    ),
    v.minLength(1),
    v.maxLength(1000),
  ),
})

/** What a template, or one agreement, consists of: a text, or pages. */
export const bodySchema: v.GenericSchema<Body> = v.variant('type', [
  documentSchema,
  pagesSchema as unknown as typeof documentSchema,
]) as unknown as v.GenericSchema<Body>
