import { columnsFor } from '../outline/field-kinds.ts'
import { EACH_ROW, itemKey, mappingKey } from './key.ts'
import { SIGNER_GROUP } from '../merge/fields.ts'
import type { Field, Outline } from '../outline/field.ts'
import type { Column } from '../sheet/columns.ts'

/**
 * Field name to column name. A field that is absent is not mapped. A list that a row holds in numbered columns ("Site 1",
 * "Site 2") is mapped item by item: `sites[1].name`; one whose items stand in the rows of a group, `sites[].name`.
 */
export type Mapping = Readonly<Record<string, string>>

/** Below this a likeness of names is an accident. */
const LEAST = 0.45

const words = (text: string): readonly string[] =>
  text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word && !['of', 'the', 'a', 'is', 'per'].includes(word))

/** Groups of words that mean the same. */
export type Synonyms = readonly (readonly string[])[]

/** Words that mean the same in any trade's sheets. Common practice; an organisation adds its own. */
const COMMON: Synonyms = [
  ['mail', 'email', 'e'],
  ['begin', 'start', 'from', 'first', 'onset'],
  ['end', 'until', 'last', 'to'],
  ['price', 'rate', 'fee'],
  ['owner', 'landowner'],
  ['leased', 'lease', 'rented'],
  ['new', 'first'],
  ['name', 'company'],
  ['customer', 'buyer', 'client'],
  ['quantity', 'number', 'count'],
]

const alike = (a: string, b: string, own: Synonyms): number => {
  if (a === b) return 1
  const same = (group: readonly string[]) => group.includes(a) && group.includes(b)
  if (COMMON.some(same) || own.some(same)) return 0.8
  const stem = Math.min(a.length, b.length)
  return stem >= 4 && (a.startsWith(b.slice(0, stem - 1)) || b.startsWith(a.slice(0, stem - 1))) ? 0.8 : 0
}

/** Soft Dice coefficient of two sets of words, 0 to 1. */
function likeness(left: readonly string[], right: readonly string[], own: Synonyms): number {
  if (!left.length || !right.length) return 0
  const best = (from: readonly string[], to: readonly string[]) =>
    from.reduce((sum, word) => sum + Math.max(...to.map((other) => alike(word, other, own))), 0)
  return (best(left, right) + best(right, left)) / (left.length + right.length)
}

const isCalled = (column: string, name: string): boolean =>
  column.trim().toLowerCase() === name.trim().toLowerCase()

/**
 * How well a column could feed a field, 0 to 1: likeness of names, lowered where the types do not agree. What says who signs is
 * never guessed by likeness: only a column that is called so feeds it.
 */
export function fitness(field: Field, column: Column, own: Synonyms = []): number {
  if (field.name.startsWith(`${SIGNER_GROUP}.`))
    return isCalled(column.name, field.name) || isCalled(column.name, field.label) ? 1 : 0
  const name = Math.max(
    likeness(words(field.name), words(column.name), own),
    likeness(words(field.label), words(column.name), own),
  )
  if (column.type === 'empty') return name * 0.5
  return columnsFor(field.type).includes(column.type) ? name : name * 0.55
}

/** Fields that a sheet's columns would feed by themselves; a list counts once. */
export const fedFields = (
  outline: Outline,
  columns: readonly Column[],
  own: Synonyms = [],
): ReadonlySet<string> =>
  new Set(
    Object.keys(suggestMapping(outline, columns, { own })).map((key) => {
      const found = mappingKey(outline, key)
      return found?.list?.name ?? key
    }),
  )

interface Pair {
  readonly key: string
  readonly column: string
  readonly fit: number
}

/** Columns with a number in their name, as items of a list: each likened without its number. */
function listPairs(list: Field, columns: readonly Column[], own: Synonyms): readonly Pair[] {
  return columns.flatMap((column) => {
    // eslint-disable-next-line regexp/no-super-linear-backtracking -- names of columns have 200 characters at the most
    const numbered = /^(.*?)(\d{1,2})(.*)$/.exec(column.name)
    if (!numbered || Number(numbered[2]) === 0) return []
    const bare = { ...column, name: `${numbered[1]!} ${numbered[3]!}`.trim() }
    return (list.items ?? [])
      .filter(({ computed }) => computed === undefined)
      .map((item) => {
        const named = { ...item, label: `${list.label} ${item.label}` }
        return {
          key: itemKey({ list: list.name, position: Number(numbered[2]), name: item.name }),
          column: column.name,
          fit: Math.max(fitness(item, bare, own), fitness(named, bare, own)),
        }
      })
  })
}

/** Columns as what each row of a group gives to a list. */
const rowPairs = (list: Field, columns: readonly Column[], own: Synonyms): readonly Pair[] =>
  columns.flatMap((column) =>
    (list.items ?? [])
      .filter(({ computed }) => computed === undefined)
      .map((item) => ({
        key: itemKey({ list: list.name, position: EACH_ROW, name: item.name }),
        column: column.name,
        fit: fitness(item, column, own),
      })),
  )

/**
 * The likeliest column for each field, each column at most once; computed fields are left out. Best pairs first. With
 * `grouped`, lists are fed from the rows of a group instead of from numbered columns. `own`: synonyms beside the common ones.
 */
export function suggestMapping(
  outline: Outline,
  columns: readonly Column[],
  { grouped = false, own = [] }: { readonly grouped?: boolean; readonly own?: Synonyms } = {},
): Mapping {
  const pairs = outline
    .filter((field) => field.computed === undefined)
    .flatMap((field): readonly Pair[] =>
      field.type === 'list'
        ? grouped
          ? rowPairs(field, columns, own)
          : listPairs(field, columns, own)
        : columns.map((column) => ({
            key: field.name,
            column: column.name,
            fit: fitness(field, column, own),
          })),
    )
    .filter(({ fit }) => fit >= LEAST)
    .sort((a, b) => b.fit - a.fit)
  const mapping: Record<string, string> = {}
  const taken = new Set<string>()
  for (const { key, column } of pairs) {
    if (key in mapping || taken.has(column)) continue
    mapping[key] = column
    taken.add(column)
  }
  return mapping
}
