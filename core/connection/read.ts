import type { Json } from '../mapping/nested.ts'
import { coerce } from '../outline/coerce.ts'
import {
  type Field,
  type FieldValue,
  isItems,
  type Outline,
  type PlainValue,
  type RecordData,
} from '../outline/field.ts'
import type { TheirKind } from './kinds.ts'

type Members = { readonly [name: string]: Json }

/** Whether a value of JSON is an object. */
export const isMembers = (value: Json | undefined): value is Members =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** What stands at a dotted path of a value; own members only. */
export function at(value: Json | undefined, path: string): Json | undefined {
  let found = value
  for (const name of path.split('.').filter(Boolean))
    found = isMembers(found) && Object.hasOwn(found, name) ? found[name] : undefined
  return found
}

/** A record of theirs as it is read here. */
export interface TheirRecord {
  readonly id: string
  readonly data: RecordData
  /** Id of the customer of theirs that it belongs to; null: none is named. */
  readonly owner: string | null
  /** Values that could not be read, each left out: our field, and what is wrong. */
  readonly problems: readonly { readonly field: string; readonly message: string }[]
}

/** The records of a page and the address of the next (null: it was the last), or what is wrong with the answer. */
export type ReadPage =
  | { readonly ok: true; readonly records: readonly TheirRecord[]; readonly next: string | null }
  | { readonly ok: false; readonly problem: string }

/** The records of one answer, and what asks for the next page. */
export function readPage(kind: TheirKind, fields: Outline, answer: Json): ReadPage {
  const items = at(answer, kind.items)
  if (!Array.isArray(items))
    return {
      ok: false,
      problem: `There is no list of ${kind.name} at “${kind.items || 'the answer itself'}”.`,
    }
  const records = (items as readonly Json[]).flatMap((item) => {
    const id = at(item, kind.id)
    return typeof id === 'string' || typeof id === 'number'
      ? [readRecord(kind, fields, item, String(id))]
      : []
  })
  if (records.length < items.length)
    return { ok: false, problem: `Some of ${kind.name} have no “${kind.id}” to be known by.` }
  const { paging } = kind
  const said = paging?.style === 'cursor' ? at(answer, paging.next) : null
  return {
    ok: true,
    records,
    next: typeof said === 'string' && said !== '' ? said : typeof said === 'number' ? String(said) : null,
  }
}

function readRecord(kind: TheirKind, fields: Outline, item: Json, id: string): TheirRecord {
  const problems: { field: string; message: string }[] = []
  const data: Record<string, FieldValue> = {}
  for (const field of fields) {
    if (field.computed !== undefined) continue
    const read =
      field.type === 'list'
        ? readList(kind, field, item, problems)
        : readValue(field, kind.mapping[field.name], item, field.name, problems)
    if (read !== null) data[field.name] = read
  }
  const owner = kind.owner ? at(item, kind.owner.field) : null
  return {
    id,
    data,
    owner: typeof owner === 'string' || typeof owner === 'number' ? String(owner) : null,
    problems,
  }
}

function readValue(
  field: Field,
  theirs: string | undefined,
  item: Json,
  named: string,
  problems: { field: string; message: string }[],
): PlainValue | null {
  const value = theirs === undefined ? undefined : at(item, theirs)
  if (value === undefined || value === null || value === '') return null
  if (typeof value === 'object') {
    problems.push({ field: named, message: `“${theirs}” is no single value.` })
    return null
  }
  const cell = typeof value === 'number' ? (field.type === 'percent' ? `${value} %` : String(value)) : value
  // An instant of theirs is read as its day, where a day is wanted.
  const read = coerce(
    field,
    field.type === 'date' && typeof cell === 'string' ? cell.slice(0, 10) : cell,
    null,
  )
  if (read.ok) return read.value
  problems.push({ field: named, message: `${field.label}: ${read.problem}` })
  return null
}

function readList(
  kind: TheirKind,
  list: Field,
  item: Json,
  problems: { field: string; message: string }[],
): FieldValue | null {
  const own = (list.items ?? []).flatMap((each) => {
    const theirs = kind.mapping[`${list.name}.${each.name}`]
    return theirs === undefined ? [] : [{ each, theirs }]
  })
  const [first] = own
  if (!first) return null
  const path = first.theirs.split('[]')[0]!
  const lines = at(item, path)
  if (!Array.isArray(lines)) return null
  const items = (lines as readonly Json[]).map((line, i) =>
    Object.fromEntries(
      own.flatMap(({ each, theirs }): [string, PlainValue][] => {
        const value = readValue(
          each,
          theirs.split('[].')[1],
          line,
          `${list.name}[${i + 1}].${each.name}`,
          problems,
        )
        return value === null ? [] : [[each.name, value]]
      }),
    ),
  )
  return isItems(items) && items.length ? items : null
}
