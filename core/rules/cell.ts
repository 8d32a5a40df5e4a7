import { checkExpression, type NameTypes } from '../expression/check.ts'
import { compileUnaryTests, evaluateSyntax, pathName } from '../expression/compile.ts'
import { TESTED } from '../expression/parse.ts'
import { children, type ExpressionProblem, type Syntax, type Test } from '../expression/syntax.ts'
import type { Comparator } from '../expression/values/operators.ts'
import { isList, type TypeName, type Value } from '../expression/values/value.ts'
import { readNumber } from '../outline/coerce.ts'
import { readMoment } from '../outline/read-date.ts'
import { isAnything } from './table.ts'

/** What a cell tests: the type of its column's value, its choices where it is one. */
export interface Tested {
  readonly type: TypeName | 'any'
  readonly choices?: readonly string[] | undefined
}

/** Faults of a cell's tests over the names there are. */
export function cellFaults(text: string, { type }: Tested, names: NameTypes): readonly ExpressionProblem[] {
  if (isAnything(text)) return []
  const compiled = compileUnaryTests(text)
  if (!compiled.ok) return [compiled.problem]
  return checkExpression(compiled.tests.syntax, new Map([...names, [TESTED, type]]), 'boolean')
}

const PHRASES: readonly (readonly [words: readonly string[], sign: string])[] = [
  [['at least', 'from', '>=', '≥'], '>='],
  [['at most', 'up to', 'until', '<=', '≤'], '<='],
  [['over', 'more than', 'above', 'after', '>'], '>'],
  [['under', 'less than', 'below', 'before', '<'], '<'],
]

/** What stands behind one of these words at the beginning; null where none does. */
function behind(written: string, words: readonly string[]): string | null {
  const lower = written.toLowerCase()
  const word = words.find((each) => lower.startsWith(each))
  const rest = word === undefined ? '' : written.slice(word.length).trim()
  return rest === '' ? null : rest
}

/**
 * What somebody meant who wrote a cell as in any sheet (`over 80,000`, `leased`, `yes`), in FEEL. What is FEEL already, and
 * what is not understood, stays as it was written.
 */
export function typedCell(text: string, tested: Tested, names: NameTypes): string {
  const written = withoutThousands(text.trim().split(/\s+/).join(' '), tested)
  if (isAnything(written)) return '-'
  if (/^empty$/i.test(written)) return 'null'
  if (/^filled$/i.test(written)) return 'not(null)'
  const sound = (cell: string) => cellFaults(cell, tested, names).length === 0
  if (sound(written)) return written === text.trim().split(/\s+/).join(' ') ? text.trim() : written
  const negated = behind(written, ['not '])
  const meant =
    (negated && wrap(listOf(negated, tested))) ??
    phrase(written, tested) ??
    span(written, tested) ??
    listOf(written, tested)
  return meant !== null && sound(meant) ? meant : text.trim()
}

/**
 * A comma before three digits, behind an operator or in a bound, parts thousands: `> 80,000` is no list of 80 and 0, though FEEL
 * would take it for one. A list is written with a blank behind its commas there.
 */
const withoutThousands = (written: string, { type }: Tested): string =>
  type === 'number'
    ? written.replace(
        /((?:[<>]=?|\.\.|[[\](]) ?-?\d{1,3})((?:,\d{3})+)(?!\d)/g,
        (_, head: string, rest: string) => head + rest.replaceAll(',', ''),
      )
    : written

const wrap = (tests: string | null): string | null => (tests === null ? null : `not(${tests})`)

function phrase(written: string, tested: Tested): string | null {
  for (const [words, sign] of PHRASES) {
    const rest = behind(written, words)
    const value = rest && literal(rest, tested)
    if (value) return `${sign} ${value}`
  }
  return null
}

function span(written: string, tested: Tested): string | null {
  const bare = behind(written, ['from ', 'between ']) ?? written
  const parts = bare.split(/ to | and |–|\.\./i)
  if (parts.length !== 2) return null
  const [low, high] = parts.map((part) => literal(part.trim(), tested))
  return low && high ? `[${low}..${high}]` : null
}

function listOf(written: string, tested: Tested): string | null {
  const whole = literal(written, tested)
  if (whole && tested.type === 'number') return whole
  const parts = written.split(/,| or /i).map((part) => literal(part.trim(), tested))
  const known = parts.filter((part) => part !== null)
  return known.length === parts.length ? known.join(', ') : whole
}

/** One value as FEEL writes it; null where it is none of the type. */
function literal(text: string, { type, choices }: Tested): string | null {
  switch (type) {
    case 'number':
      return readNumber(text.endsWith('%') ? text.slice(0, -1).trimEnd() : text)
    case 'date': {
      const read = readMoment(text, null)
      return read.ok ? `date("${read.date}")` : null
    }
    case 'boolean':
      return /^(yes|y|true)$/i.test(text) ? 'true' : /^(no|n|false)$/i.test(text) ? 'false' : null
    case 'string': {
      const bare = /^["“]/.test(text) && /["”]$/.test(text) ? text.slice(1, -1) : text
      if (bare === '' || bare.includes('"')) return null
      return JSON.stringify(choices?.find((choice) => choice.toLowerCase() === bare.toLowerCase()) ?? bare)
    }
    default:
      return null
  }
}

/** How a reader is told values of a column. */
export type ShowValue = (value: Value) => string

const SAID: Record<Comparator, string> = {
  '=': '',
  '!=': 'not ',
  '<': 'under ',
  '<=': 'at most ',
  '>': 'over ',
  '>=': 'at least ',
}

/** A cell's tests as one would say them behind “is”: "over 80,000", "almonds or cherries", "empty". */
export function plainTests(text: string, show: ShowValue): string {
  if (isAnything(text)) return 'anything'
  const compiled = compileUnaryTests(text)
  if (!compiled.ok) return text
  const { syntax } = compiled.tests
  return syntax.kind === 'call' && syntax.name !== 'not' ? `where ${text.trim()}` : said(syntax, text, show)
}

const isTested = (node: Syntax): boolean => node.kind === 'name' && node.name === TESTED

function said(node: Syntax, text: string, show: ShowValue): string {
  if (node.kind === 'call' && node.name === 'not') {
    const inner = node.args[0]!.value
    if (
      inner.kind === 'in' &&
      inner.tests.every((test) => 'expression' in test && test.expression.kind === 'null')
    )
      return 'filled'
    return `not ${said(inner, text, show)}`
  }
  if (node.kind === 'in' && isTested(node.value))
    return node.tests.map((test) => saidTest(test, text, show)).join(' or ')
  if ((node.kind === 'and' || node.kind === 'or') && [node.left, node.right].every(isSimple))
    return `${said(node.left, text, show)} ${node.kind} ${said(node.right, text, show)}`
  if (node.kind === 'comparison' && isTested(node.left))
    return `${SAID[node.operator]}${shown(node.right, text, show)}`
  return `where ${text.slice(node.from, node.to)}`
}

const isSimple = (node: Syntax): boolean =>
  (node.kind === 'comparison' && isTested(node.left)) ||
  (node.kind === 'in' && isTested(node.value)) ||
  ((node.kind === 'and' || node.kind === 'or') && isSimple(node.left) && isSimple(node.right))

function saidTest(test: Test, text: string, show: ShowValue): string {
  if ('operator' in test) return `${SAID[test.operator]}${shown(test.with, text, show)}`
  const { expression } = test
  if (expression.kind !== 'range') return shown(expression, text, show)
  const { low, high, lowIncluded, highIncluded } = expression
  const [from, to] = [shown(low, text, show), shown(high, text, show)]
  if (lowIncluded && highIncluded) return `${from} to ${to}`
  return `${lowIncluded ? 'at least' : 'over'} ${from} and ${highIncluded ? 'at most' : 'under'} ${to}`
}

function shown(node: Syntax, text: string, show: ShowValue): string {
  if (node.kind === 'null') return 'empty'
  if (reads(node)) return text.slice(node.from, node.to)
  const value = evaluateSyntax(node, new Map())
  return isList(value) ? value.map(show).join(' or ') : show(value)
}

const reads = (node: Syntax): boolean => pathName(node) !== null || children(node).some(reads)
