import * as v from 'valibot'
import { RECORD_KINDS } from '#core/records/kinds.ts'
import { agreementSummarySchema } from './agreement.ts'
import { count, id, instant, pageQuery, recordData, sha256, shortText } from './basics.ts'
import { mappingColumns, rowProblemSchema } from './sheet.ts'
import { fieldSchema } from './document.ts'

/** A kind of record. */
export const kindParam = v.object({ kind: v.picklist(RECORD_KINDS) })
/** One record of a kind. */
export const recordParams = v.object({ ...kindParam.entries, id })

const filterEntries = {
  search: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(200)), ''),
  /** FEEL over the fields of the kind. */
  where: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(4000)), ''),
  sort: v.optional(v.pipe(v.string(), v.maxLength(120)), ''),
}
/** What a list is narrowed by: words, and a FEEL condition over its fields. */
export const recordFilter = v.object(filterEntries)
/** Filter, order and page of a list of records. */
export const recordsQuery = v.object({
  ...pageQuery.entries,
  ...filterEntries,
  /** Only those of one customer. */
  customer: v.optional(id),
  archived: v.optional(v.literal('yes')),
})
/** The same for a file: `format` CSV or XLSX. */
export const exportQuery = v.object({
  ...filterEntries,
  format: v.optional(v.picklist(['csv', 'xlsx']), 'xlsx'),
})

const customer = v.nullable(v.object({ id, name: v.string() }))
/** A record with its values; `version` goes back with a change. */
export const recordSchema = v.object({
  id,
  name: v.string(),
  data: recordData,
  customer,
  version: v.number(),
  changedAt: instant,
  changedBy: v.string(),
  archived: v.boolean(),
})
/** `total` counts all that fit. */
export const recordListSchema = v.object({ total: count, records: v.array(recordSchema) })
/** A record with what belongs to it, and its agreements. */
export const recordDetail = v.object({
  ...recordSchema.entries,
  kind: v.picklist(RECORD_KINDS),
  contacts: v.array(recordSchema),
  deals: v.array(recordSchema),
  agreements: v.array(agreementSummarySchema),
  /** Of a customer: agreements made of sheets, which belong to no record and carry the customer's name. */
  named: v.array(agreementSummarySchema),
  /** Files that came with answers, or were filed to it; the newest first. */
  files: v.array(
    v.object({
      sha256,
      name: v.string(),
      size: count,
      source: v.string(),
      agreement: v.nullable(id),
      at: instant,
    }),
  ),
  /** Who of us is responsible for it: rules ask the lead of their team; null: whoever makes its agreements. */
  responsible: v.nullable(v.object({ id, name: v.string() })),
})

/** Values to be kept, whole; `version` is absent for a new one. */
export const recordChange = v.object({
  data: recordData,
  customer: v.optional(v.nullable(id), null),
  /** The version it was made from; of a new record none. */
  version: v.optional(v.number()),
})
/** One field of many records. */
export const bulkChange = v.object({
  ids: v.pipe(v.array(id), v.minLength(1), v.maxLength(5000)),
  /** Values to set; null empties a field. */
  data: v.optional(
    v.record(v.pipe(v.string(), v.maxLength(120)), v.nullable(v.union([v.string(), v.boolean()]))),
    {},
  ),
  archived: v.optional(v.boolean()),
})
/** How many were changed. */
export const bulkAnswer = v.object({ changed: count })

/** All fields of a kind, and the names of those that every installation has. */
export const kindFields = v.object({ fields: v.array(fieldSchema), own: v.array(v.string()) })
/** The fields people add to a kind, whole. */
export const addedFields = v.object({ fields: v.pipe(v.array(fieldSchema), v.maxLength(200)) })

/** A filter kept under a name. */
export const viewSchema = v.object({ id, name: v.string(), filter: recordFilter, madeBy: v.string() })
/** A filter to be kept. */
export const viewStart = v.object({ name: shortText, filter: recordFilter })
/** One kept filter. */
export const viewParams = v.object({ ...kindParam.entries, view: id })

/** Rows of a sheet as records: which column feeds which field, and what is the same record. */
export const importStart = v.object({
  sheetId: id,
  mapping: v.optional(mappingColumns),
  key: v.pipe(v.string(), v.maxLength(120)),
  /** Which customer field's column names whose contact or deal it is. */
  customerColumn: v.optional(v.nullable(v.pipe(v.string(), v.maxLength(200))), null),
})
/** What an import would do, before it is done. */
export const importPreview = v.object({
  mapping: mappingColumns,
  keys: v.array(v.object({ name: v.string(), label: v.string() })),
  key: v.string(),
  columns: v.array(v.string()),
  counts: v.object({ new: count, changed: count, untouched: count, faulty: count }),
  /** The first rows of each kind of outcome. */
  rows: v.array(
    v.object({
      row: v.number(),
      outcome: v.picklist(['new', 'changed', 'untouched', 'faulty']),
      name: v.string(),
      differences: v.array(v.object({ field: v.string(), before: v.string(), after: v.string() })),
      problems: v.array(rowProblemSchema),
    }),
  ),
})
/** What it did. */
export const importDone = v.object({ id, made: count, changed: count })
/** An import, and whether it can still be undone. */
export const importSchema = v.object({
  id,
  kind: v.picklist(RECORD_KINDS),
  sheet: v.string(),
  at: instant,
  by: v.string(),
  made: count,
  changed: count,
  undoneAt: v.nullable(instant),
})
/** What was taken back, and what stayed because it was changed since. */
export const importUndone = v.object({ undone: count, kept: count })

/** Deals to be taken as the source of a run. */
export const dealsToSheet = v.object({ ids: v.pipe(v.array(id), v.minLength(1), v.maxLength(5000)) })

/** Templates that make one agreement together. */
export const packetSchema = v.object({
  id,
  name: v.string(),
  templates: v.array(v.object({ id, name: v.string(), latestEdition: v.nullable(v.number()) })),
  /** Why it cannot be used; null where it can. */
  problem: v.nullable(v.string()),
})
/** A packet’s name and templates, in their order. */
export const packetChange = v.object({
  name: shortText,
  templates: v.pipe(v.array(id), v.minLength(2, 'A packet has at least two templates.'), v.maxLength(20)),
})
