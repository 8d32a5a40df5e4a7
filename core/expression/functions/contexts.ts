import { type Context, isContext, isList, type Value } from '../values/value.ts'
import type { BuiltIns } from './built-in.ts'

/** DMN 1.4 10.3.4.10. */
export const contextFunctions: BuiltIns = {
  context: {
    parameters: ['entries'],
    types: ['list'],
    result: 'context',
    help: 'A context of entries, each with its key and value',
    call: ([entries]) => {
      const made = new Map<string, Value>()
      for (const entry of isList(entries!) ? entries : []) {
        const key = isContext(entry) ? entry.get('key') : undefined
        if (!isContext(entry) || typeof key !== 'string' || !entry.has('value') || made.has(key)) return null
        made.set(key, entry.get('value')!)
      }
      return isList(entries!) ? made : null
    },
  },
  'context put': {
    parameters: ['context', 'key', 'value'],
    alsoNamed: { keys: 1 },
    types: ['context', 'any', 'any'],
    result: 'context',
    help: 'A context with a value under a key, or under a list of keys one inside the other',
    call: ([context, key, value]) => {
      const keys = isList(key!) ? key : [key!]
      return isContext(context!) && keys.length && keys.every((each) => typeof each === 'string')
        ? put(context, keys, value!)
        : null
    },
  },
  'context merge': {
    parameters: ['contexts'],
    types: ['list'],
    result: 'context',
    help: 'One context of several; of equal keys the last counts',
    call: ([contexts]) =>
      isList(contexts!) && contexts.every(isContext)
        ? new Map(contexts.flatMap((each) => [...(each as Context)]))
        : null,
  },
}

function put(context: Context, [key, ...rest]: readonly string[], value: Value): Value {
  if (rest.length === 0) return new Map([...context, [key!, value]])
  const inner = context.get(key!)
  const made = inner !== undefined && isContext(inner) ? put(inner, rest, value) : null
  return made && new Map([...context, [key!, made]])
}
