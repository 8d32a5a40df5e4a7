import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { isList, type TypeName, type Value } from '../values/value.ts'

/** One built-in: parameter names in order, result type, and its meaning. */
export interface BuiltIn {
  readonly parameters: readonly string[]
  /** How many of the last parameters may be left out. */
  readonly optional?: number
  /** The last parameter takes all the rest. */
  readonly variadic?: boolean
  /** Types of the parameters, where only one will do. */
  readonly types?: readonly (TypeName | 'any')[]
  /** Other names of parameters, each with its place. */
  readonly alsoNamed?: Readonly<Record<string, number>>
  /** A name of the record's context that the function gives, instead of working anything out. */
  readonly reads?: string
  readonly result: TypeName | 'any'
  readonly help: string
  readonly call: (args: readonly Value[]) => Value
}

/** Functions by the names they are called by. */
export type BuiltIns = Readonly<Record<string, BuiltIn>>

/** The day of a date, or of a date and time; null: it is neither. */
export const asDate = (value: Value): Temporal.PlainDate | null =>
  value instanceof Temporal.PlainDate
    ? value
    : value instanceof Temporal.PlainDateTime
      ? value.toPlainDate()
      : null

/** Aggregates take one list or several arguments (DMN 10.3.4.4). */
export const items = (args: readonly Value[]): readonly Value[] =>
  args.length === 1 ? (isList(args[0]!) ? args[0] : [args[0]!]) : args

/** The arguments as numbers; null: one of them is none. */
export const numbers = (args: readonly Value[]): readonly Decimal[] | null => {
  const list = items(args)
  return list.every((item) => item instanceof Decimal) ? (list as readonly Decimal[]) : null
}

/** A whole number as JavaScript has it; null: it is none. */
export const integer = (value: Value): number | null =>
  value instanceof Decimal && value.isInteger() ? value.toNumber() : null

/** A text by its Unicode characters, which FEEL counts. */
export const characters = (text: string) => [...text]

/** Types that the names of single parameters stand for. */
const ONE_TYPES: Readonly<Record<string, TypeName>> = {
  list: 'list',
  string: 'string',
  n: 'number',
  number: 'number',
}

/** A function of one parameter. */
export const one = (
  name: string,
  result: BuiltIn['result'],
  help: string,
  call: (value: Value) => Value,
  type: TypeName | 'any' = ONE_TYPES[name] ?? 'any',
): BuiltIn => ({
  parameters: [name],
  types: [type],
  result,
  help,
  call: ([value]) => call(value!),
})

/** A function of one list, or of as many arguments as there are. */
export const aggregate = (
  result: BuiltIn['result'],
  help: string,
  call: (args: readonly Value[]) => Value,
): BuiltIn => ({
  parameters: ['list'],
  variadic: true,
  result,
  help,
  call,
})
