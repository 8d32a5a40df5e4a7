import type { ColumnType } from '../outline/cell.ts'
import type { FieldType } from '../outline/field-kinds.ts'
import { suggestMapping, type Synonyms } from './suggest.ts'
import type { Column } from '../sheet/columns.ts'
import { type Field, fieldNameProblem, type Outline } from '../outline/field.ts'

/** What a column of each type is as a field. */
export const fieldTypes: Readonly<Record<ColumnType, FieldType>> = {
  text: 'text',
  number: 'number',
  percent: 'percent',
  date: 'date',
  time: 'time',
  'date and time': 'date and time',
  'yes/no': 'yes/no',
  email: 'email',
  empty: 'text',
}

/** A field's name from a column's: "Contact mail address" becomes contact_mail_address. */
export function nameFromColumn(column: string): string {
  const name = column
    .normalize('NFC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^_|_$/g, '')
    .replace(/^(?=\p{N})/u, 'n')
  return fieldNameProblem(name) ? `${name || 'field'}_` : name
}

const isPercent = (column: Column): boolean =>
  column.type === 'percent' ||
  (column.type === 'number' && /discount|percent|\btax\b|\bvat\b|%/i.test(column.name))

const isMoney = (column: Column): boolean =>
  column.type === 'number' &&
  (/price|amount|fee|rent|cost|total/i.test(column.name) ||
    column.samples.some((sample) => /\p{Sc}/u.test(sample)))

/** Numbered columns ("Lot 1 price", "Lot 2 price") in groups: the words before the number are the list's name. */
// eslint-disable-next-line regexp/no-super-linear-backtracking -- names of columns have 200 characters at the most
const numbered = /^(.*?\S)\s*(\d{1,2})\s*[-:.]?\s*(\S.*)$/

/** Fields for the columns of a sheet that no field of an outline would be mapped to, lists from numbered columns. */
export function fieldsFromColumns(
  columns: readonly Column[],
  outline: Outline,
  own: Synonyms = [],
): readonly Field[] {
  const mapped = new Set(Object.values(suggestMapping(outline, columns, { own })))
  const taken = new Set(outline.map(({ name }) => name))
  // Of the rows no more is known than that the fullest column has one cell in each: what it lacks may be missing.
  const rows = Math.max(1, ...columns.map(({ filled }) => filled))
  const unique = (name: string): string => {
    let made = name
    for (let i = 2; taken.has(made); i++) made = `${name}_${i}`
    taken.add(made)
    return made
  }
  const fieldOf = (column: Column, name: string, label: string): Field => ({
    name,
    label,
    type: isPercent(column) ? 'percent' : isMoney(column) ? 'money' : fieldTypes[column.type],
    required: column.filled === rows && column.odd.length === 0,
    ...(!isPercent(column) && isMoney(column) ? { currency: 'USD' } : {}),
    ...(column.samples[0] ? { example: column.samples[0] } : {}),
  })
  const lists = new Map<string, Map<string, Field>>()
  const plain: Field[] = []
  const counts = new Map<string, Set<string>>()
  for (const { name } of columns) {
    const found = numbered.exec(name)
    if (found) counts.set(found[1]!, (counts.get(found[1]!) ?? new Set()).add(found[2]!))
  }
  for (const column of columns) {
    if (mapped.has(column.name)) continue
    const found = numbered.exec(column.name)
    if (found && (counts.get(found[1]!)?.size ?? 0) > 1) {
      const [, list, , item] = found as unknown as [string, string, string, string]
      const items = lists.get(list) ?? new Map<string, Field>()
      const name = nameFromColumn(item)
      // Of several columns for one field of the items, the first with anything in it tells the type.
      if (!items.get(name)?.example)
        items.set(name, { ...fieldOf(column, name, capital(item)), required: false })
      lists.set(list, items)
    } else plain.push(fieldOf(column, unique(nameFromColumn(column.name)), column.name))
  }
  return [
    ...plain,
    ...[...lists].map(([list, items]): Field => ({
      name: unique(`${nameFromColumn(list)}s`),
      label: `${list}s`,
      type: 'list',
      required: false,
      items: [...items.values()],
    })),
  ]
}

const capital = (text: string) => text.slice(0, 1).toUpperCase() + text.slice(1)
