import type { Field, Outline } from '../outline/field.ts'

// A mapping's key is a field's name; of a list's field, the list, the item and the field: `sites[1].name`, or `sites[].name`
// where each row of a group is an item. This is the one place that writes or reads such keys.

/** Position of an item that each row of a group gives. */
export const EACH_ROW = -1

/** What the key of a list's field says, whatever outline it is of. */
export interface ItemKey {
  readonly list: string
  /** From 1; EACH_ROW where each row of a group is an item. */
  readonly position: number
  readonly name: string
}

/** The key of an item’s field: `list[].name` of each row, `list[2].name` of the third item. */
export const itemKey = ({ list, position, name }: ItemKey): string =>
  `${list}[${position === EACH_ROW ? '' : position}].${name}`

/** Null: the key is that of a plain field. */
export function readItemKey(key: string): ItemKey | null {
  const item = /^(.+)\[(\d{0,3})\]\.([^.]+)$/.exec(key)
  return item && { list: item[1]!, position: item[2] === '' ? EACH_ROW : Number(item[2]), name: item[3]! }
}

/** What a key names: a field, or a field of the so-manieth item of a list. */
export interface MappingKey {
  readonly field: Field
  readonly list: Field | null
  readonly position: number
}

/** The field a key of a mapping names; null where the outline has none. */
export function mappingKey(outline: Outline, key: string): MappingKey | null {
  const item = readItemKey(key)
  if (!item) {
    const field = outline.find(({ name, type }) => name === key && type !== 'list')
    return field ? { field, list: null, position: 0 } : null
  }
  const list = outline.find(({ name, type }) => name === item.list && type === 'list')
  const field = list?.items?.find(({ name, computed }) => name === item.name && computed === undefined)
  return list && field ? { field, list, position: item.position } : null
}
