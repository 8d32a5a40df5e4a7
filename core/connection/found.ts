import type { ColumnType } from '../outline/cell.ts'
import { suggestMapping, type Synonyms } from '../mapping/suggest.ts'
import type { Json } from '../mapping/nested.ts'
import type { Outline } from '../outline/field.ts'
import { describeColumn } from '../sheet/columns.ts'
import { at, isMembers } from './read.ts'
import type { Paging, TheirField, TheirKind, TheirType } from './kinds.ts'

/** How deep groups and references of a description are followed. */
const DEEPEST = 6
/** Groups within groups that are looked into: a record that names its own kind goes on for ever. */
const GROUPS = 3
const MOST_FIELDS = 300

const NO_PUSH = { status: null, link: null, files: null }

/** Kinds in an OpenAPI 3 document: every GET without a parameter in its path that answers a list of records. */
export function kindsInDescription(description: Json): readonly TheirKind[] {
  const paths = at(description, 'paths')
  if (!isMembers(paths)) return []
  return Object.entries(paths).flatMap(([path, methods]): TheirKind[] => {
    const get = at(methods, 'get')
    if (!isMembers(get) || path.includes('{')) return []
    const schema = resolved(description, schemaOf(get), 0)
    const found = listIn(description, schema)
    if (!found) return []
    const fields = fieldsOf(description, found.item, 0)
    const params = parametersOf(description, get)
    return fields.length ? [kindFrom(path, found.items, fields, params, found.next, Object.keys(paths))] : []
  })
}

const schemaOf = (get: Json): Json | undefined => {
  const answers = at(get, 'responses')
  const ok = isMembers(answers) ? (answers['200'] ?? answers['default']) : undefined
  const content = at(ok, 'content')
  return isMembers(content)
    ? at(content['application/json'] ?? Object.values(content)[0], 'schema')
    : undefined
}

function resolved(description: Json, schema: Json | undefined, depth: number): Json | undefined {
  const ref = at(schema, '$ref')
  if (typeof ref !== 'string' || depth > DEEPEST) return schema
  if (!ref.startsWith('#/')) return undefined
  const target = ref
    .slice(2)
    .split('/')
    .reduce<Json | undefined>(
      (found, name) => (isMembers(found) && Object.hasOwn(found, name) ? found[name] : undefined),
      description,
    )
  return resolved(description, target, depth + 1)
}

/** Where in an answer the list of records is, and what names the next page. */
function listIn(
  description: Json,
  schema: Json | undefined,
): { items: string; item: Json; next: string | null } | null {
  const own = at(schema, 'items')
  if (own !== undefined) {
    const item = resolved(description, own, 0)
    return item !== undefined && at(item, 'properties') ? { items: '', item, next: null } : null
  }
  const members = at(schema, 'properties')
  if (!isMembers(members)) return null
  const next = Object.keys(members).find((name) => /^(next|next_?cursor|cursor)$/i.test(name)) ?? null
  for (const [name, each] of Object.entries(members)) {
    const item = resolved(description, at(resolved(description, each, 0), 'items'), 0)
    if (item !== undefined && at(item, 'properties')) return { items: name, item, next }
  }
  return null
}

const parametersOf = (description: Json, get: Json): readonly string[] => {
  const listed = at(get, 'parameters')
  return Array.isArray(listed)
    ? (listed as readonly Json[]).flatMap((each) => {
        const name = at(resolved(description, each, 0), 'name')
        return typeof name === 'string' ? [name] : []
      })
    : []
}

function fieldsOf(description: Json, schema: Json | undefined, depth: number): readonly TheirField[] {
  const members = at(resolved(description, schema, 0), 'properties')
  if (!isMembers(members) || depth > GROUPS) return []
  return Object.entries(members)
    .flatMap(([name, each]): readonly TheirField[] => {
      const own = resolved(description, each, 0)
      if (at(own, 'properties'))
        return fieldsOf(description, own, depth + 1).map((field) => ({
          ...field,
          name: `${name}.${field.name}`,
        }))
      if (at(own, 'type') === 'array') {
        const items = fieldsOf(description, at(own, 'items'), depth + 1).filter(({ type }) => type !== 'list')
        return items.length ? [{ name, type: 'list', items }] : []
      }
      return [{ name, type: typeFrom(own) }]
    })
    .slice(0, MOST_FIELDS)
}

function typeFrom(schema: Json | undefined): TheirType {
  const type = at(schema, 'type')
  const types = Array.isArray(type) ? (type as readonly Json[]) : [type]
  const format = at(schema, 'format')
  if (format === 'date' || format === 'date-time') return 'date'
  if (types.includes('number') || types.includes('integer')) return 'number'
  return types.includes('boolean') ? 'yes/no' : 'text'
}

function kindFrom(
  path: string,
  items: string,
  fields: readonly TheirField[],
  params: readonly string[],
  next: string | null,
  paths: readonly string[],
): TheirKind {
  const name = path.split('/').filter(Boolean).at(-1) ?? path
  const cursor = params.find((each) => /cursor|after/i.test(each))
  const page = params.find((each) => /^page$/i.test(each))
  const paging: Paging | null =
    cursor && next ? { style: 'cursor', param: cursor, next } : page ? { style: 'page', param: page } : null
  const plain = fields.filter(({ type }) => type !== 'list').map((field) => field.name)
  const files = paths.find(
    (each) => each.startsWith(`${path}/{`) && /\}\/(files|documents|attachments)$/.test(each),
  )
  return {
    name,
    path,
    items,
    id: plain.find((each) => /^id$/i.test(each)) ?? plain.find((each) => /id$/i.test(each)) ?? 'id',
    since: params.find((each) => /since|changed|modified|updated/i.test(each)) ?? null,
    paging,
    fields,
    into: null,
    mapping: {},
    owner: null,
    push: {
      ...NO_PUSH,
      status: plain.find((each) => /contract.*(status|state)|agreement.*(status|state)/i.test(each)) ?? null,
      link: plain.find((each) => /(contract|agreement).*(link|url)/i.test(each)) ?? null,
      files: files ? files.split('}/')[1]! : null,
    },
  }
}

/** A kind as a sample answer shows it: what is in the answer is all that is known. */
export function kindInSample(path: string, answer: Json): TheirKind | null {
  const place = Array.isArray(answer)
    ? ''
    : isMembers(answer)
      ? Object.entries(answer).find(([, value]) => Array.isArray(value))?.[0]
      : undefined
  if (place === undefined) return null
  const records = (at(answer, place) as readonly Json[]).filter(isMembers).slice(0, 200)
  if (records.length === 0) return null
  const fields = new Map<string, TheirField>()
  for (const record of records)
    for (const field of fieldsInSample(record, 0)) {
      const known = fields.get(field.name)
      if (!known || (known.type === 'list' && (known.items?.length ?? 0) < (field.items?.length ?? 0)))
        fields.set(field.name, field)
    }
  const next = isMembers(answer) ? (Object.keys(answer).find((name) => /^next/i.test(name)) ?? null) : null
  return kindFrom(path, place, [...fields.values()].slice(0, MOST_FIELDS), next ? ['cursor'] : [], next, [])
}

function fieldsInSample(record: Json, depth: number): readonly TheirField[] {
  if (!isMembers(record) || depth > GROUPS) return []
  return Object.entries(record).flatMap(([name, value]): readonly TheirField[] => {
    if (isMembers(value))
      return fieldsInSample(value, depth + 1).map((field) => ({ ...field, name: `${name}.${field.name}` }))
    if (Array.isArray(value)) {
      const first = (value as readonly Json[]).find(isMembers)
      return first ? [{ name, type: 'list', items: fieldsInSample(first, depth + 1) }] : []
    }
    if (value === null) return []
    return [{ name, type: typeOfValue(value) }]
  })
}

const typeOfValue = (value: Json): TheirType =>
  typeof value === 'number'
    ? 'number'
    : typeof value === 'boolean'
      ? 'yes/no'
      : typeof value === 'string' && /^\d{4}-\d{2}-\d{2}/.test(value)
        ? 'date'
        : 'text'

const COLUMN_TYPES: Readonly<Record<TheirType, ColumnType>> = {
  text: 'text',
  number: 'number',
  'yes/no': 'yes/no',
  date: 'date',
  list: 'text',
}

/** Which of their fields likely fills which of ours; items of lists too, where both have one. */
export function suggestedFor(fields: Outline, kind: TheirKind, own: Synonyms = []): TheirKind['mapping'] {
  const columns = (of: readonly TheirField[]) =>
    of
      .filter(({ type }) => type !== 'list')
      .map(({ name, type }) => ({
        ...describeColumn(name, []),
        type: type === 'text' && /e-?mail/i.test(name) ? ('email' as const) : COLUMN_TYPES[type],
      }))
  // What goes back to a field does not come from it.
  const told = new Set([kind.push.status, kind.push.link])
  const plain = suggestMapping(
    fields.filter(({ type }) => type !== 'list'),
    columns(kind.fields.filter(({ name }) => !told.has(name))),
    { own },
  )
  const titled = kind.fields.find(
    ({ name, type }) => type === 'text' && /^(title|label|subject)$/i.test(name),
  )
  const list = fields.find(({ type }) => type === 'list')
  // The record's own list before those of what it names.
  const theirs = kind.fields
    .filter(({ type }) => type === 'list')
    .sort((a, b) => a.name.split('.').length - b.name.split('.').length)[0]
  const lines =
    list?.items && theirs?.items
      ? Object.entries(suggestMapping(list.items, columns(theirs.items), { own })).map(([ours, of]) => [
          `${list.name}.${ours}`,
          `${theirs.name}[].${of}`,
        ])
      : []
  return {
    ...(titled && !('name' in plain) ? { name: titled.name } : {}),
    ...plain,
    ...(Object.fromEntries(lines) as Record<string, string>),
  }
}

/** What a kind is not any more as it was when it was mapped. */
export interface Drift {
  readonly kind: string
  /** Of a mapped field: it is gone, or of another type. Of the others: it is new. */
  readonly what: 'gone' | 'type' | 'new'
  readonly field: string
  readonly before: string
  readonly now: string
}

const flat = (fields: readonly TheirField[]): ReadonlyMap<string, TheirType> =>
  new Map(
    fields.flatMap(({ name, type, items }) => [
      ...(items ?? []).map((item) => [`${name}[].${item.name}`, item.type] as const),
      [name, type] as const,
    ]),
  )

/** How a kind of today differs from the one that was mapped: mapped fields that are gone or of another type first. */
export function driftOf(known: TheirKind, now: TheirKind | undefined): readonly Drift[] {
  if (!now) return [{ kind: known.name, what: 'gone', field: '', before: known.name, now: '' }]
  const [before, after] = [flat(known.fields), flat(now.fields)]
  const mapped = new Set([
    ...Object.values(known.mapping),
    known.id,
    ...(known.owner ? [known.owner.field] : []),
    ...[known.push.status, known.push.link].filter((each) => each !== null),
  ])
  const changed = [...before].flatMap(([field, type]): Drift[] => {
    const is = after.get(field)
    if (!mapped.has(field) || is === type) return []
    return [
      { kind: known.name, what: is === undefined ? 'gone' : 'type', field, before: type, now: is ?? '' },
    ]
  })
  const added = [...after].flatMap(([field, type]): Drift[] =>
    before.has(field) ? [] : [{ kind: known.name, what: 'new', field, before: '', now: type }],
  )
  return [...changed, ...added]
}
