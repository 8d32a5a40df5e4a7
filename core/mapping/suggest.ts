import type { Field, FieldType, Outline } from '../outline/field.ts'
import type { Column, ColumnType } from '../sheet/columns.ts'

/** Field name to column name. A field that is absent is not mapped. */
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

/** Words that mean the same in this trade's sheets. Common practice. */
const synonyms: readonly (readonly string[])[] = [
  ['mail', 'email', 'e'],
  ['begin', 'start', 'from', 'first', 'onset'],
  ['end', 'until', 'last', 'to'],
  ['price', 'rate', 'fee'],
  ['hives', 'colonies', 'count'],
  ['owner', 'landowner'],
  ['leased', 'lease', 'rented'],
  ['new', 'first'],
  ['name', 'company'],
]

const alike = (a: string, b: string): number => {
  if (a === b) return 1
  if (synonyms.some((group) => group.includes(a) && group.includes(b))) return 0.8
  const stem = Math.min(a.length, b.length)
  return stem >= 4 && (a.startsWith(b.slice(0, stem - 1)) || b.startsWith(a.slice(0, stem - 1))) ? 0.8 : 0
}

/** Soft Dice coefficient of two sets of words, 0 to 1. */
function likeness(left: readonly string[], right: readonly string[]): number {
  if (!left.length || !right.length) return 0
  const best = (from: readonly string[], to: readonly string[]) =>
    from.reduce((sum, word) => sum + Math.max(...to.map((other) => alike(word, other))), 0)
  return (best(left, right) + best(right, left)) / (left.length + right.length)
}

const suits: Record<FieldType, readonly ColumnType[]> = {
  text: ['text', 'number', 'email'],
  'long text': ['text'],
  number: ['number'],
  money: ['number'],
  percent: ['percent', 'number'],
  date: ['date'],
  'yes/no': ['yes/no'],
  choice: ['text'],
  email: ['email'],
}

/** How well a column could feed a field, 0 to 1: likeness of names, lowered where the types do not agree. */
export function fitness(field: Field, column: Column): number {
  const name = Math.max(
    likeness(words(field.name), words(column.name)),
    likeness(words(field.label), words(column.name)),
  )
  if (column.type === 'empty') return name * 0.5
  return suits[field.type].includes(column.type) ? name : name * 0.55
}

/** The likeliest column for each field, each column at most once; computed fields are left out. Best pairs first. */
export function suggestMapping(outline: Outline, columns: readonly Column[]): Mapping {
  const pairs = outline
    .filter((field) => field.computed === undefined)
    .flatMap((field) =>
      columns.map((column) => ({ field: field.name, column: column.name, fit: fitness(field, column) })),
    )
    .filter(({ fit }) => fit >= LEAST)
    .sort((a, b) => b.fit - a.fit)
  const mapping: Record<string, string> = {}
  const taken = new Set<string>()
  for (const { field, column } of pairs) {
    if (field in mapping || taken.has(column)) continue
    mapping[field] = column
    taken.add(column)
  }
  return mapping
}
