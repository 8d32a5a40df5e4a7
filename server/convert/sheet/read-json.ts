import type { Cell } from '#core/outline/cell.ts'
import type { Book, BookTable } from '#core/sheet/book.ts'
import { checkColumn, RowCollector, SheetFault } from './book.ts'
import { decodeText } from './encoding.ts'

type Json = null | boolean | number | string | readonly Json[] | { readonly [name: string]: Json }

const isObject = (value: Json): value is { readonly [name: string]: Json } =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const isObjects = (value: Json): value is readonly { readonly [name: string]: Json }[] =>
  Array.isArray(value) && value.length > 0 && (value as readonly Json[]).every(isObject)

const DEEPEST = 6

/** Texts without U+0000, which says nothing and which no database keeps. */
const parse = (text: string): Json =>
  JSON.parse(text, (_key, value: Json) =>
    typeof value === 'string' && value.includes('\0') ? value.replaceAll('\0', '') : value,
  ) as Json

/** An object a line, as logs and exports have them; null where any line is none. */
function readLines(text: string): readonly Json[] | null {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '')
  if (lines.length < 2) return null
  try {
    const values = lines.map(parse)
    return isObjects(values) ? values : null
  } catch {
    return null
  }
}

/**
 * JSON (RFC 8259): a list of objects, or an object that has such lists. Names become the row of column names; groups
 * become "buyer name", and lists inside become numbered columns: "lines 1 item", "lines 2 item". An object a line, without
 * a list around them, is read as well.
 */
export function readJson(name: string, bytes: Uint8Array): Book {
  const text = decodeText(bytes).text.replace(/^\uFEFF/, '')
  let value: Json
  try {
    value = parse(text)
  } catch (error) {
    const lines = readLines(text)
    if (!lines)
      throw new SheetFault(
        `The JSON cannot be read: ${error instanceof Error ? error.message : 'it has a fault'}.`,
      )
    value = lines
  }
  const lists = isObjects(value)
    ? [[name, value] as const]
    : isObject(value)
      ? Object.entries(value).flatMap(([key, list]) => (isObjects(list) ? [[key, list] as const] : []))
      : []
  if (lists.length === 0)
    throw new SheetFault(
      'The JSON has no list of objects: each row has to be an object with names and values.',
    )
  return {
    kind: 'json',
    tables: lists.map(([key, list]) => tableOf(key, list)),
    names: [],
    delimiter: null,
    encoding: null,
  }
}

function tableOf(name: string, list: readonly { readonly [name: string]: Json }[]): BookTable {
  const places = new Map<string, number>()
  const rows = list.map((object, row) => {
    const cells: Cell[] = []
    const put = (path: string, value: Json, depth: number): void => {
      if (depth > DEEPEST) throw new SheetFault(`“${path}” is nested more than ${DEEPEST} deep.`)
      if (isObject(value))
        for (const [key, inner] of Object.entries(value))
          put(`${path} ${key.replaceAll('\0', '')}`.trim(), inner, depth + 1)
      else if (isObjects(value)) value.forEach((inner, i) => put(`${path} ${i + 1}`, inner, depth + 1))
      // Of a list of nothing nobody can tell what it is a list of.
      else if (Array.isArray(value) && value.length === 0) return
      else {
        if (!places.has(path)) {
          // Before there is room for it in every row.
          checkColumn(row, places.size)
          places.set(path, places.size)
        }
        cells[places.get(path)!] = Array.isArray(value) ? value.join(', ') : (value as Cell)
      }
    }
    put('', object, 0)
    return cells
  })
  const collector = new RowCollector()
  collector.put(0, [...places.keys()])
  rows.forEach((cells, i) =>
    collector.put(
      i + 1,
      Array.from(cells, (cell) => cell ?? null),
    ),
  )
  return { name, rows: collector.rows, joined: [] }
}
