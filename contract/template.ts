import * as v from 'valibot'
import { NOTICE_FORMS, PAPERS, ROLE_SHAPES, type TemplateContent } from '#core/document/template.ts'
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
import { type Field, FIELD_TYPES } from '#core/outline/field.ts'
import { count, id, instant, recordData, sha256, shortText } from './basics.ts'

const name = v.pipe(v.string(), v.minLength(1), v.maxLength(120))
const expression = v.pipe(v.string(), v.maxLength(10_000))

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
const few = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(100))

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

const fieldName = v.optional(v.nullable(name))
/** A draft is saved while it is being written; what is missing is a fault of the template, not of the saving. */
const halfWritten = v.pipe(v.string(), v.maxLength(200))
const fillRule = v.variant('rule', [
  v.object({
    rule: v.literal('record'),
    name: halfWritten,
    email: halfWritten,
    title: v.nullable(name),
    company: fieldName,
    phone: fieldName,
    list: fieldName,
  }),
  v.object({
    rule: v.literal('standing person'),
    name: halfWritten,
    email: v.pipe(v.string(), v.maxLength(320)),
    title: v.pipe(v.string(), v.maxLength(120)),
    company: v.optional(v.pipe(v.string(), v.maxLength(200))),
    phone: v.optional(v.pipe(v.string(), v.maxLength(60))),
  }),
  v.object({ rule: v.literal('whoever sends') }),
  v.object({ rule: v.literal('ask') }),
])

const pattern = v.pipe(v.string(), v.maxLength(5000))
const days = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(365))

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

/** All that a template says (`core/document/template.ts`), within the limits of size. */
export const templateContentSchema: v.GenericSchema<TemplateContent> = v.object({
  title: shortText,
  language: v.pipe(v.string(), v.regex(/^[a-z]{2,3}(-[A-Za-z0-9]{2,8})*$/)),
  outline: v.pipe(v.array(fieldSchema), v.maxLength(500)),
  roles: v.pipe(
    v.array(
      v.object({
        key: name,
        label: halfWritten,
        shape: v.picklist(ROLE_SHAPES),
        order: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(25)),
        fill: fillRule,
        condition: v.optional(v.nullable(expression)),
        optional: v.optional(v.boolean()),
      }),
    ),
    v.maxLength(25),
  ),
  initialsOnEveryPage: v.pipe(v.array(name), v.maxLength(25)),
  document: bodySchema,
  sending: v.object({
    agreementName: pattern,
    fileName: pattern,
    subject: pattern,
    message: pattern,
    signByDays: v.pipe(days, v.minValue(1)),
    remindAfter: v.optional(v.pipe(v.array(days), v.maxLength(12))),
    remindBefore: v.optional(v.pipe(v.array(days), v.maxLength(12))),
    remindUnopened: v.optional(v.pipe(v.array(days), v.maxLength(12))),
    notice: v.optional(v.nullable(v.picklist(NOTICE_FORMS))),
    copies: v.optional(v.pipe(v.array(v.pipe(v.string(), v.maxLength(254))), v.maxLength(25))),
  }),
  page: v.optional(
    v.object({
      paper: v.picklist(PAPERS),
      header: v.pipe(v.string(), v.maxLength(500)),
      footer: v.pipe(v.string(), v.maxLength(500)),
    }),
  ),
  look: v.optional(v.nullable(v.pipe(v.string(), v.maxLength(60)))),
  tickGroups: v.optional(
    v.pipe(v.array(v.object({ name, least: few, most: v.nullable(few) })), v.maxLength(40)),
  ),
})

/** What a person may do with a template, by its shelf and their own rights. */
const shelfRights = v.object({ use: v.boolean(), edit: v.boolean(), publish: v.boolean() })

/** `place` quotes the document near it. */
export const importRemark = v.object({
  kind: v.picklist(['carried over', 'changed', 'left out']),
  what: v.string(),
  place: v.string(),
  count,
})
export type ImportRemark = v.InferOutput<typeof importRemark>

/** A published state of a template; it never changes. */
export const editionSchema = v.object({
  id,
  number: v.number(),
  publishedAt: instant,
  publishedBy: v.string(),
  note: v.string(),
  /** Saved cases as they stood at publishing. */
  cases: v.object({ passed: count, failed: v.array(v.string()) }),
})
export type Edition = v.InferOutput<typeof editionSchema>

/** A template as lists show it, with what whoever asks may do with it. */
export const templateSummarySchema = v.object({
  id,
  name: v.string(),
  latestEdition: v.nullable(v.number()),
  changedAt: instant,
  changedBy: v.string(),
  draftDiffers: v.boolean(),
  agreements: v.number(),
  shelf: v.nullable(id),
  may: shelfRights,
})

/** A template with its draft and editions. */
export const templateSchema = v.object({
  id,
  name: v.string(),
  draft: templateContentSchema,
  draftVersion: v.number(),
  changedAt: instant,
  changedBy: v.string(),
  editions: v.array(editionSchema),
  draftDiffers: v.boolean(),
  shelf: v.nullable(id),
  may: shelfRights,
  /** What did not carry over from the document the template was made from. */
  importReport: v.array(importRemark),
})

/** A draft, whole, from the version it was made of. */
export const draftSave = v.object({
  version: v.pipe(v.number(), v.integer()),
  content: templateContentSchema,
})
/** The version it has now. */
export const draftSaved = v.object({ version: v.number(), changedAt: instant })

/** A fault of a draft, at its place. */
export const templateProblemSchema = v.object({
  where: v.picklist(['block', 'field', 'role', 'sending', 'page']),
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
  /** Proofs with this agreement’s data instead of a row’s. */
  agreementId: v.optional(id),
})

/** Where a word of a proof comes from: the field, its column and cell. */
export const originSchema = v.object({
  field: v.string(),
  label: v.string(),
  format: v.string(),
  formula: v.nullable(v.string()),
  worked: v.nullable(v.string()),
  clause: v.nullable(v.string()),
  condition: v.nullable(v.string()),
  because: v.nullable(v.string()),
  item: v.nullable(v.number()),
  passage: v.string(),
  column: v.nullable(v.string()),
  cell: v.nullable(v.string()),
})

/** A text cue that leads nowhere (`core/form/cues.ts`). */
export const cueFaultSchema = v.object({ id: v.string(), title: v.string(), message: v.string() })

/** Finished pages of a draft for one row, in base64, with every word’s origin. */
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
  /** Ids of conditional passages. */
  kept: v.array(v.string()),
  dropped: v.array(v.string()),
  origins: v.array(originSchema),
  /** Values too wide for the room they have; `origin` where one can be pointed at. */
  overflow: v.array(v.object({ origin: v.nullable(v.number()), text: v.string(), where: v.string() })),
  /** Blocks of signatures, by id, that stand on a page with no words above them. */
  alone: v.array(v.string()),
  /** Text cues of a form that lead nowhere. */
  cues: v.array(cueFaultSchema),
  /** Every field's value for this row as its default format shows it; null where it has none. */
  values: v.record(v.string(), v.nullable(v.string())),
  /** The record itself, to keep as a saved case. */
  data: recordData,
  milliseconds: v.number(),
})

/** Questions to a whole source: for how many rows conditions hold, and which row has the longest value of a field. */
export const surveyRequest = v.object({
  templateId: id,
  sheetId: id,
  content: templateContentSchema,
  conditions: v.pipe(v.array(expression), v.maxLength(200)),
  longest: v.nullable(name),
})
/** For how many rows of a source each condition holds. */
export const surveySchema = v.object({
  rows: count,
  conditions: v.array(v.object({ holds: count, undecided: count })),
  longest: v.nullable(v.object({ row: v.number(), text: v.string() })),
})

/** A new template, empty or as a copy. */
export const templateStart = v.object({
  title: shortText,
  shelf: v.nullable(id),
  /** Another template whose draft is copied. */
  from: v.nullable(id),
})
