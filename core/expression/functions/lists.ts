import { spend } from '../values/budget.ts'
import { and, equal, not, or } from '../values/operators.ts'
import { isContext, isList, Lambda, number, Range, toText, typeOf, type Value } from '../values/value.ts'
import { aggregate, type BuiltIns, integer, items, one } from './built-in.ts'

/** Truth values. */
export const logicFunctions: BuiltIns = {
  not: one('negand', 'boolean', 'true for false and the other way round', not),
  all: aggregate('boolean', 'Whether all of a list are true', (args) => items(args).reduce(and, true)),
  any: aggregate('boolean', 'Whether one of a list is true', (args) => items(args).reduce(or, false)),
  is: {
    parameters: ['value1', 'value2'],
    result: 'boolean',
    help: 'Whether two values are the same, of the same type',
    call: ([a, b]) => typeOf(a!) === typeOf(b!) && equal(a!, b!) === true,
  },
  'is defined': one('value', 'boolean', 'Whether a value is there', (value) => value !== null),
}

/** DMN 1.3 10.3.4.4. Positions count from 1, or from the end with a minus. */
export const listFunctions: BuiltIns = {
  count: one('list', 'number', 'Number of items', (list) => (isList(list) ? number(list.length) : null)),
  'list contains': {
    parameters: ['list', 'element'],
    types: ['list', 'any'],
    result: 'boolean',
    help: 'Whether a list has an item',
    call: ([list, element]) => (isList(list!) ? list.some((item) => equal(item, element!) === true) : null),
  },
  append: {
    parameters: ['list', 'item'],
    types: ['list'],
    variadic: true,
    result: 'list',
    help: 'A list with further items',
    call: ([list, ...more]) => (isList(list!) ? [...list, ...more] : null),
  },
  concatenate: aggregate('list', 'Lists one after the other', (args) =>
    args.flatMap((item) => (isList(item) ? item : [item])),
  ),
  reverse: one('list', 'list', 'A list from its end', (list) => (isList(list) ? list.toReversed() : null)),
  'distinct values': one('list', 'list', 'A list without repetitions', (list) =>
    isList(list) ? distinct(list) : null,
  ),
  flatten: one('list', 'list', 'Nested lists in one', (list) => (isList(list) ? flatten(list) : null)),
  'get value': {
    parameters: ['context', 'key'],
    alsoNamed: { m: 0 },
    result: 'any',
    help: 'The value of a context under a name',
    call: ([context, key]) =>
      isContext(context!) && typeof key === 'string' ? (context.get(key) ?? null) : null,
  },
  sublist: {
    parameters: ['list', 'start position', 'length'],
    optional: 1,
    types: ['list', 'number', 'number'],
    result: 'list',
    help: 'Part of a list',
    call: ([list, start, length]) => {
      if (!isList(list!)) return null
      const from = position(list, start!)
      if (from === null) return null
      const count = length === undefined ? list.length - from : integer(length)
      return count === null || count < 0 || from + count > list.length ? null : list.slice(from, from + count)
    },
  },
  'insert before': {
    parameters: ['list', 'position', 'newItem'],
    types: ['list', 'number', 'any'],
    result: 'list',
    help: 'A list with an item put in before a position',
    call: ([list, at, item]) => {
      const place = isList(list!) ? position(list, at!) : null
      return place === null ? null : (list as readonly Value[]).toSpliced(place, 0, item!)
    },
  },
  remove: {
    parameters: ['list', 'position'],
    types: ['list', 'number'],
    result: 'list',
    help: 'A list without the item at a position',
    call: ([list, at]) => {
      const place = isList(list!) ? position(list, at!) : null
      return place === null ? null : (list as readonly Value[]).toSpliced(place, 1)
    },
  },
  'list replace': {
    parameters: ['list', 'position', 'newItem'],
    types: ['list', 'number', 'any'],
    result: 'list',
    help: 'A list with another item at a position',
    call: ([list, at, item]) => {
      const place = isList(list!) ? position(list, at!) : null
      return place === null ? null : (list as readonly Value[]).toSpliced(place, 1, item!)
    },
  },
  sort: {
    parameters: ['list', 'precedes'],
    types: ['list', 'function'],
    result: 'list',
    help: 'A list in order; the function says whether one item comes before another: function(a, b) a < b',
    call: ([list, precedes]) =>
      isList(list!) && precedes instanceof Lambda && precedes.parameters.length === 2
        ? sorted(list, precedes)
        : null,
  },
  'index of': {
    parameters: ['list', 'match'],
    types: ['list', 'any'],
    result: 'list',
    help: 'The positions at which a list has an item',
    call: ([list, match]) =>
      isList(list!)
        ? list.flatMap((item, i) =>
            (match === null ? item === null : equal(item, match!) === true) ? [number(i + 1)] : [],
          )
        : null,
  },
  union: aggregate('list', 'The items of several lists, each once', (args) =>
    distinct(args.flatMap((item) => (isList(item) ? item : [item]))),
  ),
  'get entries': one('m', 'list', 'The entries of a context, each with its key and value', (context) =>
    isContext(context)
      ? [...context].map(
          ([key, value]) =>
            new Map<string, Value>([
              ['key', key],
              ['value', value],
            ]),
        )
      : null,
  ),
}

/** A list may hold one list many times over: what comes of it is counted while it is made. */
function flatten(list: readonly Value[]): readonly Value[] {
  spend(list.length)
  return list.flatMap((item) => (isList(item) ? flatten(item) : [item]))
}

/** In the order that a function gives: it says whether one item comes before another. */
function sorted(list: readonly Value[], precedes: Lambda): Value {
  const before = (a: Value, b: Value) => {
    spend(1)
    return precedes.call([a, b]) === true
  }
  return [...list].sort((a, b) => (before(a, b) ? -1 : before(b, a) ? 1 : 0))
}

const position = (list: readonly Value[], at: Value): number | null => {
  const n = integer(at)
  if (!n || Math.abs(n) > list.length) return null
  return n > 0 ? n - 1 : list.length + n
}

/** Each item the first time it comes. Plain values are known by their text, so that long lists do not take for ever. */
function distinct(list: readonly Value[]): readonly Value[] {
  const plain = new Set<string>()
  const nested: Value[] = []
  return list.filter((item) => {
    if (isList(item) || isContext(item) || item instanceof Range) {
      if (nested.some((other) => equal(item, other) === true)) return false
      nested.push(item)
      spend(nested.length)
      return true
    }
    const key = `${typeOf(item)} ${toText(item)}`
    return !plain.has(key) && plain.add(key)
  })
}
