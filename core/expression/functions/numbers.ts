import { Decimal } from 'decimal.js'
import { Temporal } from 'temporal-polyfill'
import { spend } from '../values/budget.ts'
import { order, POWER_STEPS } from '../values/operators.ts'
import { number, type Value } from '../values/value.ts'
import { aggregate, type BuiltIn, type BuiltIns, integer, items, numbers, one } from './built-in.ts'

const round = (value: Value, scale: Value, rounding: Decimal.Rounding): Value => {
  const digits = scale === undefined || scale === null ? 0 : integer(scale)
  return value instanceof Decimal && digits !== null && digits >= -6111 && digits <= 6176
    ? digits >= 0
      ? value.toDecimalPlaces(digits, rounding)
      : value.div(number(10).pow(-digits)).toDecimalPlaces(0, rounding).times(number(10).pow(-digits))
    : null
}

const rounding = (help: string, mode: Decimal.Rounding): BuiltIn => ({
  parameters: ['n', 'scale'],
  optional: 1,
  result: 'number',
  help,
  call: ([n, scale]) => round(n!, scale ?? null, mode),
})

/** DMN 1.3 10.3.4.5 and 10.3.4.4: odd, even, roots and powers, and what statistics a contract may use. */
export const numberFunctions: BuiltIns = {
  decimal: rounding('Rounded to so many decimals, ties to even', Decimal.ROUND_HALF_EVEN),
  'round half up': rounding('Rounded to so many decimals, ties away from zero', Decimal.ROUND_HALF_UP),
  'round half down': rounding('Rounded to so many decimals, ties towards zero', Decimal.ROUND_HALF_DOWN),
  'round up': rounding('Rounded away from zero', Decimal.ROUND_UP),
  'round down': rounding('Rounded towards zero', Decimal.ROUND_DOWN),
  floor: rounding('Rounded down', Decimal.ROUND_FLOOR),
  ceiling: rounding('Rounded up', Decimal.ROUND_CEIL),
  abs: one(
    'n',
    'number',
    'Without its sign',
    (n) => (n instanceof Decimal || n instanceof Temporal.Duration ? n.abs() : null),
    'any',
  ),
  modulo: {
    parameters: ['dividend', 'divisor'],
    result: 'number',
    help: 'Remainder with the sign of the divisor',
    call: ([a, b]) =>
      a instanceof Decimal && b instanceof Decimal && !b.isZero() ? a.minus(b.times(a.div(b).floor())) : null,
  },
  number: {
    parameters: ['from', 'grouping separator', 'decimal separator'],
    optional: 2,
    result: 'number',
    help: 'A number from text such as "1234.50"; or, with the signs between thousands and before decimals, "1.234,50"',
    call: ([from, grouping, decimal]) =>
      typeof from === 'string'
        ? readNumber(from, grouping ?? null, decimal ?? null)
        : from instanceof Decimal
          ? from
          : null,
  },
  sum: aggregate('number', 'Sum of a list', (args) => {
    const list = numbers(args)
    return list?.length ? list.reduce((total, item) => total.plus(item), number(0)) : null
  }),
  mean: aggregate('number', 'Average of a list', (args) => {
    const list = numbers(args)
    return list?.length ? list.reduce((total, item) => total.plus(item), number(0)).div(list.length) : null
  }),
  min: aggregate('any', 'Smallest of a list', (args) => extreme(items(args), -1)),
  max: aggregate('any', 'Largest of a list', (args) => extreme(items(args), 1)),
  odd: one('number', 'boolean', 'Whether a whole number is odd', (n) => {
    const whole = integer(n)
    return whole === null ? null : Math.abs(whole % 2) === 1
  }),
  even: one('number', 'boolean', 'Whether a whole number is even', (n) => {
    const whole = integer(n)
    return whole === null ? null : whole % 2 === 0
  }),
  sqrt: one('number', 'number', 'The square root', (n) =>
    n instanceof Decimal && !n.isNegative() ? rooted(n.sqrt()) : null,
  ),
  exp: one('number', 'number', 'e to the power of a number', (n) =>
    n instanceof Decimal ? rooted(n.exp()) : null,
  ),
  log: one('number', 'number', 'The natural logarithm', (n) =>
    n instanceof Decimal && n.gt(0) ? rooted(n.ln()) : null,
  ),
  product: aggregate('number', 'Product of a list', (args) => {
    const list = numbers(args)
    return list?.length ? list.reduce((total, item) => total.times(item), number(1)) : null
  }),
  median: aggregate('number', 'The middle of a list in order', (args) => {
    const list = numbers(args)
    if (!list?.length) return null
    const sorted = [...list].sort((a, b) => a.comparedTo(b))
    const middle = Math.floor(sorted.length / 2)
    return sorted.length % 2 ? sorted[middle]! : sorted[middle - 1]!.plus(sorted[middle]!).div(2)
  }),
  stddev: aggregate('number', 'The sample standard deviation of a list', (args) => {
    const list = numbers(args)
    if (!list || list.length < 2) return null
    const mean = list.reduce((total, item) => total.plus(item), number(0)).div(list.length)
    return list
      .reduce((total, item) => total.plus(item.minus(mean).pow(2)), number(0))
      .div(list.length - 1)
      .sqrt()
  }),
  mode: aggregate('list', 'The most frequent values of a list, smallest first', (args) => {
    const list = numbers(args)
    if (!list) return null
    const counts = new Map<string, number>()
    for (const item of list) counts.set(item.toFixed(), (counts.get(item.toFixed()) ?? 0) + 1)
    const most = Math.max(0, ...counts.values())
    return [...counts]
      .filter(([, count]) => count === most)
      .map(([text]) => number(text))
      .sort((a, b) => a.comparedTo(b))
  }),
}

function rooted(value: Decimal): Decimal {
  spend(POWER_STEPS)
  return value
}

/** DMN 10.3.4.1: grouping is a space, comma or full stop, decimals follow a full stop or comma, and the two differ. */
function readNumber(text: string, grouping: Value, decimal: Value): Value {
  if (grouping !== null && grouping !== ' ' && grouping !== ',' && grouping !== '.') return null
  if (decimal !== null && decimal !== ',' && decimal !== '.') return null
  if (grouping !== null && grouping === decimal) return null
  const ungrouped = grouping === null ? text : text.replaceAll(grouping, '')
  const plain = (decimal === ',' ? ungrouped.replace(',', '.') : ungrouped).trim()
  return /^-?(\d+(\.\d*)?|\.\d+)(e[+-]?\d+)?$/i.test(plain) ? number(plain) : null
}

function extreme(list: readonly Value[], sign: 1 | -1): Value {
  let best: Value = list[0] ?? null
  for (const item of list.slice(1)) {
    const ordered = order(item, best)
    if (ordered === null) return null
    if (ordered * sign > 0) best = item
  }
  return best
}
