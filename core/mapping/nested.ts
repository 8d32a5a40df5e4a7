import type { FieldType } from '../outline/field-kinds.ts'
import type { Cell } from '../outline/cell.ts'
import type { Field, Outline } from '../outline/field.ts'
import { type Column, describeColumn } from '../sheet/columns.ts'
import { perObject } from '../per-object.ts'
import { nearest } from '../text/nearest.ts'
import type { RowProblem, SourceRow } from './apply.ts'
import { EACH_ROW, itemKey, readItemKey } from './key.ts'
import type { Mapping } from './suggest.ts'

/** Values as programs write them (RFC 8259). */
export type Json = string | number | boolean | null | readonly Json[] | { readonly [name: string]: Json }
type Members = { readonly [name: string]: Json }

/** Where something is wrong in what was sent, as a JSON pointer (RFC 6901), and what. */
export interface PointedProblem {
  readonly pointer: string
  readonly message: string
}

/** What nested values are read by: a column for each field and each field of a list, named like it. */
export interface NestedColumns {
  readonly columns: readonly Column[]
  readonly mapping: Mapping
}

/** Values of one agreement as rows of such columns: the first has the plain values, and each an item of the lists. */
export interface NestedRows {
  readonly rows: readonly SourceRow[]
  readonly problems: readonly PointedProblem[]
  /** Where in what was sent a problem of the rows is. */
  readonly pointerTo: (problem: Pick<RowProblem, 'field' | 'row'>) => string
}

interface Slot {
  readonly name: string
  readonly field: Field
  readonly list: string | null
}

/** Worked out once for all rows of an outline. */
const slotsOf = perObject((outline: Outline): readonly Slot[] =>
  outline
    .filter(({ computed }) => computed === undefined)
    .flatMap((field): Slot[] =>
      field.type === 'list'
        ? itemsOf(field).map((item) => ({
            name: `${field.name}.${item.name}`,
            field: item,
            list: field.name,
          }))
        : [{ name: field.name, field, list: null }],
    ),
)

const givenFields = perObject(
  (outline: Outline): ReadonlyMap<string, Field> =>
    new Map(outline.filter(({ computed }) => computed === undefined).map((field) => [field.name, field])),
)

const itemsOf = (list: Field): readonly Field[] =>
  (list.items ?? []).filter(({ computed }) => computed === undefined)

/** The columns that nested values of an outline have, whatever they are. */
export function nestedColumns(outline: Outline): NestedColumns {
  const slots = slotsOf(outline)
  return {
    columns: slots.map(({ name }) => describeColumn(name, [])),
    mapping: Object.fromEntries(
      slots.map(({ name, field, list }) => [
        list === null ? name : itemKey({ list, position: EACH_ROW, name: field.name }),
        name,
      ]),
    ),
  }
}

/** Items that one list may have. */
export const MOST_ITEMS = 1000

/**
 * Reads nested values by an outline: groups as objects (`{"buyer": {"city": …}}`) or by their whole name
 * (`{"buyer.city": …}`), lists as arrays of objects. A number is meant as it stands, a percentage in points. What names no
 * field, or has a value where a group or list belongs, is a problem; nothing is dropped without a word.
 */
export function nestedRows(outline: Outline, values: Members, at = ''): NestedRows {
  const reading = new NestedReading(outline, at)
  reading.members(values, '', at)
  return reading.read()
}

class NestedReading {
  private readonly fields: ReadonlyMap<string, Field>
  private readonly plain = new Map<string, { readonly cell: Cell; readonly pointer: string }>()
  private readonly lists = new Map<string, { readonly items: readonly Json[]; readonly pointer: string }>()
  private readonly problems: PointedProblem[] = []

  constructor(
    private readonly outline: Outline,
    private readonly root: string,
  ) {
    this.fields = givenFields(outline)
  }

  members(values: Members, prefix: string, at: string): void {
    for (const [key, value] of Object.entries(values)) {
      const name = prefix + key
      const pointer = `${at}/${escaped(key)}`
      const field = this.fields.get(name)
      if (field?.type === 'list') this.list(field, value, pointer)
      else if (field) this.value(field, value, pointer)
      else if (!this.isGroup(name)) this.unknown(name, pointer)
      else if (isMembers(value)) this.members(value, `${name}.`, pointer)
      else if (value !== null) this.say(pointer, `“${name}” is a group: its values stand in an object.`)
    }
  }

  private isGroup(name: string): boolean {
    for (const known of this.fields.keys()) if (known.startsWith(`${name}.`)) return true
    return false
  }

  private value(field: Field, value: Json, pointer: string): void {
    if (value === null) return
    if (typeof value === 'object')
      return this.say(
        pointer,
        `“${field.label}” is one value, not ${Array.isArray(value) ? 'a list' : 'a group'}.`,
      )
    if (this.plain.has(field.name)) return this.say(pointer, `“${field.label}” is given twice.`)
    this.plain.set(field.name, { cell: cellOf(field.type, value), pointer })
  }

  private list(field: Field, value: Json, pointer: string): void {
    if (value === null) return
    if (!Array.isArray(value))
      return this.say(pointer, `“${field.label}” is a list: its items stand in an array.`)
    const items = value as readonly Json[]
    if (items.length > MOST_ITEMS)
      return this.say(pointer, `“${field.label}” has ${items.length} items; ${MOST_ITEMS} are taken.`)
    const own = new Map(itemsOf(field).map((item) => [item.name, item]))
    for (const [i, item] of items.entries()) {
      const there = `${pointer}/${i}`
      if (!isMembers(item)) {
        this.say(there, `An item of “${field.label}” is an object of its values.`)
        continue
      }
      for (const [key, each] of Object.entries(item)) {
        if (!own.has(key))
          this.unknown(
            `${field.name}.${key}`,
            `${there}/${escaped(key)}`,
            [...own.keys()].map((name) => `${field.name}.${name}`),
          )
        else if (typeof each === 'object' && each !== null)
          this.say(`${there}/${escaped(key)}`, `“${own.get(key)!.label}” is one value.`)
      }
    }
    this.lists.set(field.name, { items, pointer })
  }

  private unknown(name: string, pointer: string, known: Iterable<string> = this.fields.keys()): void {
    const meant = nearest(name, known)
    this.say(
      pointer,
      `There is no field “${name.slice(0, 100)}”${meant ? `; “${meant}” is the nearest` : ''}.`,
    )
  }

  private say(pointer: string, message: string): void {
    this.problems.push({ pointer, message })
  }

  read(): NestedRows {
    const most = Math.max(1, ...[...this.lists.values()].map(({ items }) => items.length))
    const slots = slotsOf(this.outline)
    const rows = Array.from({ length: most }, (_, i) => ({
      row: i + 1,
      cells: slots.map(({ name, field, list }): Cell => {
        if (list === null) return i === 0 ? (this.plain.get(name)?.cell ?? null) : null
        const item = this.lists.get(list)?.items[i]
        const value = isMembers(item) ? item[field.name] : null
        return value === undefined || typeof value === 'object' ? null : cellOf(field.type, value)
      }),
    }))
    return { rows, problems: this.problems, pointerTo: (problem) => this.pointerTo(problem) }
  }

  private pointerTo({ field, row }: Pick<RowProblem, 'field' | 'row'>): string {
    const item = readItemKey(field)
    if (item)
      return `${this.lists.get(item.list)?.pointer ?? this.expected(item.list)}/${(row ?? 1) - 1}/${escaped(item.name)}`
    return this.plain.get(field)?.pointer ?? this.lists.get(field)?.pointer ?? this.expected(field)
  }

  /** What is missing stands where it would have stood. */
  private expected(field: string): string {
    return field === '' ? this.root : `${this.root}/${field.split('.').map(escaped).join('/')}`
  }
}

const isMembers = (value: Json | undefined): value is Members =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Numbers go as decimal text, so that none is taken for a date that lost its format. */
const cellOf = (type: FieldType, value: string | number | boolean): Cell =>
  typeof value === 'number' ? (type === 'percent' ? `${value} %` : String(value)) : value

const escaped = (name: string): string => name.replaceAll('~', '~0').replaceAll('/', '~1')
