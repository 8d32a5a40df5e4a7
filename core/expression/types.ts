import type { FeelType } from './syntax.ts'
import { isContext, isList, Range, typeOf, type Value } from './values/value.ts'

/** Whether a value is of a type (`instance of`, DMN 10.3.2.9.2). Null is of the type `null` alone. */
export function conforms(value: Value, type: FeelType): boolean {
  switch (type.kind) {
    case 'plain':
      return type.name === 'Any'
        ? value !== null
        : type.name === 'Null'
          ? value === null
          : typeOf(value) === type.name
    case 'list':
      return isList(value) && value.every((item) => fits(item, type.of))
    case 'range':
      return value instanceof Range && [value.low, value.high].every((end) => fits(end, type.of))
    case 'context':
      return (
        isContext(value) &&
        type.entries.every(({ key, type: of }) => value.has(key) && fits(value.get(key)!, of))
      )
  }
}

/** Inside a list, range or context a missing value fits every type. */
const fits = (value: Value, type: FeelType): boolean => value === null || conforms(value, type)
