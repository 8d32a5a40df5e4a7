import { parser, trackVariables } from '@bpmn-io/lezer-feel'
import type { SyntaxNode } from '@lezer/common'
import { builtIns } from './functions.ts'
import type { Arithmetic, Comparator } from './values/operators.ts'
import {
  type Argument,
  children,
  type ExpressionProblem,
  type FeelType,
  type Iteration,
  type RangeSyntax,
  type Syntax,
  type Test,
} from './syntax.ts'
import { deepest, Fault, fault, firstError, unclosedComment, unquote } from './parse-faults.ts'

/** The syntax of a text, or where and why it has none. */
export type Parsed =
  { readonly ok: true; readonly syntax: Syntax } | { readonly ok: false; readonly problem: ExpressionProblem }

/** The sign of a numeral may stand apart from its digits. */
const numeral = (text: string): string =>
  text.startsWith('-') ? `-${text.slice(1).split(/[\s/]/).at(-1)!}` : text

/** Longest expression taken, in UTF-16 units, and deepest nesting: far above any contract, far below a stack overflow. */
export const LIMITS = { length: 10_000, depth: 200 } as const

/** Names with words of the language in them ("amount in words") are told from those only where they are known. */
const contextTracker = trackVariables(
  Object.fromEntries(
    // Not those of one word, which are told apart without: `context` as a name would hide the type of that name.
    [...builtIns.keys(), 'days and time duration']
      .filter((name) => name.includes(' '))
      .map((name) => [name, null]),
  ),
)
const expressionParser = parser.configure({ top: 'Expression', contextTracker })
const unaryTestsParser = parser.configure({ top: 'UnaryTests', contextTracker })

/** The name under which unary tests find the value they test. */
export const TESTED = '?'

/** Reads one FEEL expression. The first fault ends it; its position is that of the word at fault. */
export const parseExpression = (text: string): Parsed =>
  parse(text, expressionParser, (top, reader) => {
    const [inner, more] = meaning(top)
    if (!inner)
      throw new Fault({ message: 'Nothing but a comment is written here yet.', from: 0, to: text.length })
    if (more) throw fault(more, 'The expression should end before this.')
    return reader.read(inner, 0)
  })

/**
 * Reads the tests of a decision table's cell (DMN 1.3, 8.3.3 and 10.3.1.2, rule 12) as a condition on the value `?`. `-`, and a
 * cell with nothing in it, is a condition that always holds.
 */
export const parseUnaryTests = (text: string): Parsed =>
  text.trim() === ''
    ? { ok: true, syntax: { kind: 'boolean', value: true, from: 0, to: text.length } }
    : parse(text, unaryTestsParser, (top, reader) => reader.unaryTests(top))

function parse(
  text: string,
  grammar: typeof expressionParser,
  read: (top: SyntaxNode, reader: Reader) => Syntax,
): Parsed {
  const fail = (message: string, from = 0, to = text.length): Parsed => ({
    ok: false,
    problem: { message, from, to },
  })
  if (text.trim() === '') return fail('Nothing is written here yet.')
  if (text.length > LIMITS.length) return fail(`Longer than ${LIMITS.length} characters.`)
  const open = unclosedComment(text)
  if (open !== null) return fail('A comment is opened here and never closed.', open)
  const nesting = deepest(text)
  if (nesting > LIMITS.depth) return fail(`Nested more than ${LIMITS.depth} levels deep.`)
  const tree = grammar.parse(text)
  try {
    firstError(tree.topNode, text)
    return { ok: true, syntax: read(tree.topNode, new Reader(text)) }
  } catch (error) {
    if (error instanceof Fault) return { ok: false, problem: error.problem }
    throw error
  }
}

/** Parts of a node, comments left out (DMN 10.3.1.2, white space and comments). */
function meaning(node: SyntaxNode): SyntaxNode[] {
  const found: SyntaxNode[] = []
  for (let child = node.firstChild; child; child = child.nextSibling)
    if (child.name !== 'BlockComment' && child.name !== 'LineComment') found.push(child)
  return found
}

const isPunctuation = (node: SyntaxNode) =>
  /^[()[\]{},.:]$|^(and|or|if|then|else|in|between|some|every|satisfies|for|return|instance|of|\.\.)$/.test(
    node.name,
  )

const isParenthesized = (node: SyntaxNode): boolean =>
  node.name === 'ParenthesizedExpression' ||
  (/PositiveUnaryTest$/.test(node.name) && node.firstChild !== null && isParenthesized(node.firstChild))

/** `value in test`, where what the grammar took for the test may go on with `and` and `or`. */
function membership(value: Syntax, test: Syntax): Syntax {
  return test.kind === 'and' || test.kind === 'or'
    ? { ...test, from: value.from, left: membership(value, test.left) }
    : { from: value.from, to: test.to, kind: 'in', value, tests: [{ expression: test }] }
}

/** Brackets around a comparison that has nothing on its left. */
const isUnaryTest = (node: SyntaxNode): boolean => {
  const inside = meaning(node).find(({ name }) => name !== '(' && name !== ')')
  return (
    inside !== undefined &&
    ((inside.name === 'SimplePositiveUnaryTest' && inside.firstChild?.name === 'CompareOp') ||
      (inside.name === 'ParenthesizedExpression' && isUnaryTest(inside)))
  )
}

const PLAIN_TYPES: ReadonlySet<string> = new Set([
  'Any',
  'Null',
  'number',
  'string',
  'boolean',
  'date',
  'time',
  'date and time',
  'days and time duration',
  'years and months duration',
  'list',
  'context',
  'range',
  'function',
])

const asksForTested = (node: Syntax): boolean =>
  (node.kind === 'name' && node.name === TESTED) || children(node).some(asksForTested)

class Reader {
  constructor(private readonly text: string) {}

  /** Children that carry meaning. */
  private parts(node: SyntaxNode): SyntaxNode[] {
    return meaning(node).filter((child) => !isPunctuation(child))
  }

  private slice(node: SyntaxNode): string {
    return this.text.slice(node.from, node.to)
  }

  unaryTests(top: SyntaxNode): Syntax {
    const span = { from: top.from, to: top.to }
    const parts = meaning(top)
    if (parts[0]?.name === 'Wildcard') return { ...span, kind: 'boolean', value: true }
    const tests = parts.find(({ name }) => name === 'PositiveUnaryTests')
    if (!tests) throw fault(top, 'There is no test here.')
    const inner = (node: SyntaxNode | undefined) => this.read(node, 1)
    const value: Syntax = { ...span, kind: 'name', name: TESTED }
    const plain: Test[] = []
    let condition: Syntax | null = null
    const or = (more: Syntax) =>
      (condition = condition ? { ...span, kind: 'or', left: condition, right: more } : more)
    for (const part of this.parts(tests)) {
      const test = this.test(part, inner)
      // A test that asks for the value itself is a condition as it stands (DMN 1.3, table 54).
      if ('expression' in test && asksForTested(test.expression)) or(test.expression)
      else plain.push(test)
    }
    if (plain.length) or({ ...span, kind: 'in', value, tests: plain })
    if (!condition) throw fault(top, 'There is no test here.')
    if (parts[0]?.name !== 'not') return condition
    return { ...span, kind: 'call', name: 'not', args: [{ name: null, value: condition }] }
  }

  /** A name with its white space folded: FEEL names may have several words. */
  private name(node: SyntaxNode): string {
    return this.slice(node).trim().replace(/\s+/g, ' ')
  }

  read(node: SyntaxNode | undefined, depth: number): Syntax {
    if (!node) throw new Fault({ message: 'The expression is not complete.', from: 0, to: this.text.length })
    if (depth > LIMITS.depth * 4) throw fault(node, `Nested more than ${LIMITS.depth} levels deep.`)
    const span = { from: node.from, to: node.to }
    const parts = this.parts(node)
    const inner = (child: SyntaxNode | undefined) => this.read(child, depth + 1)
    switch (node.name) {
      case 'NumericLiteral':
        return { ...span, kind: 'number', text: numeral(this.slice(node)) }
      case 'StringLiteral':
        return { ...span, kind: 'string', value: unquote(this.slice(node)) }
      case 'BooleanLiteral':
        return { ...span, kind: 'boolean', value: this.slice(node) === 'true' }
      case 'null':
        return { ...span, kind: 'null' }
      case TESTED:
        return { ...span, kind: 'name', name: TESTED }
      case 'VariableName':
        return { ...span, kind: 'name', name: this.name(node) }
      case 'ParenthesizedExpression':
      case 'PositiveUnaryTest':
        return inner(parts[0])
      case 'SimplePositiveUnaryTest':
        if (parts[0]?.name === 'CompareOp') throw fault(node, 'A comparison needs something on its left.')
        return inner(parts[0])
      case 'PathExpression':
        return { ...span, kind: 'path', of: inner(parts[0]), name: this.name(parts[1]!) }
      case 'FilterExpression':
        return { ...span, kind: 'filter', of: inner(parts[0]), by: inner(parts[1]) }
      case 'Conjunction':
      case 'Disjunction':
        return {
          ...span,
          kind: node.name === 'Conjunction' ? 'and' : 'or',
          left: inner(parts[0]),
          right: inner(parts[1]),
        }
      case 'ArithmeticExpression':
        return this.arithmetic(node, parts, inner)
      case 'Comparison':
        return this.comparison(node, parts, inner)
      case 'IfExpression':
        return {
          ...span,
          kind: 'if',
          test: inner(parts[0]),
          then: inner(parts[1]),
          otherwise: inner(parts[2]),
        }
      case 'List':
        return { ...span, kind: 'list', items: parts.map(inner) }
      case 'Context':
        return {
          ...span,
          kind: 'context',
          entries: parts.map((entry) => {
            const [key, value] = this.parts(entry)
            const name = this.name(key!)
            return { key: name.startsWith('"') ? unquote(name) : name, value: inner(value) }
          }),
        }
      case 'Interval':
        return this.range(node, parts, inner)
      case 'FunctionInvocation':
      case 'DateTimeLiteral':
        return this.call(node, parts, inner)
      case 'QuantifiedExpression':
      case 'ForExpression':
        return {
          ...span,
          kind:
            node.name === 'ForExpression'
              ? 'for'
              : this.slice(node.firstChild!) === 'some'
                ? 'some'
                : 'every',
          over: this.parts(parts[0]!).map((over): Iteration => this.iteration(over, inner)),
          body: inner(parts[1]),
        }
      case 'InstanceOfExpression':
        return { ...span, kind: 'instance of', value: inner(parts[0]), type: this.type(parts[1]!) }
      case 'FunctionDefinition':
        return {
          ...span,
          kind: 'function',
          parameters: parts
            .filter((part) => part.name === 'FormalParameters')
            .flatMap((part) => this.parts(part))
            .map((part) => this.name(this.parts(part)[0]!)),
          body: inner(meaning(parts.at(-1)!).at(-1)),
        }
      default:
        throw fault(node, `“${this.slice(node).slice(0, 40)}” is not supported here.`)
    }
  }

  private arithmetic(node: SyntaxNode, parts: SyntaxNode[], inner: (n?: SyntaxNode) => Syntax): Syntax {
    const span = { from: node.from, to: node.to }
    if (parts[0]!.name === 'ArithOp') {
      if (this.slice(parts[0]!) !== '-') throw fault(parts[0]!, 'A plus sign has nothing to add here.')
      return { ...span, kind: 'negative', of: inner(parts[1]) }
    }
    return {
      ...span,
      kind: 'arithmetic',
      operator: this.slice(parts[1]!) as Arithmetic,
      left: inner(parts[0]),
      right: inner(parts[2]),
    }
  }

  private comparison(node: SyntaxNode, parts: SyntaxNode[], inner: (n?: SyntaxNode) => Syntax): Syntax {
    const span = { from: node.from, to: node.to }
    if (node.getChild('between'))
      return {
        ...span,
        kind: 'in',
        value: inner(parts[0]),
        tests: [
          {
            expression: {
              ...span,
              kind: 'range',
              low: inner(parts[1]),
              high: inner(parts[2]),
              lowIncluded: true,
              highIncluded: true,
            },
          },
        ],
      }
    if (node.getChild('in')) {
      const tests = parts
        .slice(1)
        .flatMap((part) => (part.name === 'PositiveUnaryTests' ? this.parts(part) : [part]))
      const value = inner(parts[0])
      const read = tests.map((test) => this.test(test, inner))
      const [only] = read
      // The grammar reads `x in [1..3] and y` as a test of the whole rest; `in` binds closer than `and` (DMN 10.3.1.2).
      if (read.length === 1 && only && 'expression' in only && !isParenthesized(tests[0]!))
        return membership(value, only.expression)
      return { ...span, kind: 'in', value, tests: read }
    }
    return {
      ...span,
      kind: 'comparison',
      operator: this.slice(parts[1]!) as Comparator,
      left: inner(parts[0]),
      right: inner(parts[2]),
    }
  }

  /** A type by its name, or with those of its parts in angle brackets. */
  private type(node: SyntaxNode): FeelType {
    const inside = node.firstChild
    const types = inside ? inside.getChildren('Type') : []
    if (inside?.name === 'ListType' && types[0]) return { kind: 'list', of: this.type(types[0]) }
    if (inside?.name === 'ContextType')
      return {
        kind: 'context',
        entries: (inside.getChild('ContextEntryTypes')?.getChildren('ContextEntryType') ?? []).map(
          (entry) => ({
            key: this.name(entry.getChild('Name')!),
            type: this.type(entry.getChild('Type')!),
          }),
        ),
      }
    const name = this.name(node)
    if (!PLAIN_TYPES.has(name)) throw fault(node, `“${name}” is no type: ${[...PLAIN_TYPES].join(', ')}.`)
    return { kind: 'plain', name }
  }

  private test(node: SyntaxNode, inner: (n?: SyntaxNode) => Syntax): Test {
    // Brackets around one test are the grammar's: `5 in (> 3)`.
    if (node.name === 'PositiveUnaryTest' || (node.name === 'ParenthesizedExpression' && isUnaryTest(node)))
      return this.test(this.parts(node)[0]!, inner)
    if (node.name !== 'SimplePositiveUnaryTest') return { expression: inner(node) }
    const [first, second] = this.parts(node)
    return first!.name === 'CompareOp'
      ? { operator: this.slice(first!) as Comparator, with: inner(second) }
      : { expression: inner(first) }
  }

  private range(node: SyntaxNode, parts: SyntaxNode[], inner: (n?: SyntaxNode) => Syntax): RangeSyntax {
    const text = this.slice(node)
    return {
      from: node.from,
      to: node.to,
      kind: 'range',
      low: inner(parts[0]),
      high: inner(parts[1]),
      lowIncluded: text.startsWith('['),
      highIncluded: text.endsWith(']'),
    }
  }

  private call(node: SyntaxNode, parts: SyntaxNode[], inner: (n?: SyntaxNode) => Syntax): Syntax {
    const span = { from: node.from, to: node.to }
    if (parts[0]!.name === 'AtLiteral')
      return { ...span, kind: 'call', name: '@', args: [{ name: null, value: inner(parts[0]!.lastChild!) }] }
    const args = parts[1] ? this.args(parts[1], inner) : []
    return { ...span, to: parts[0]!.to, kind: 'call', name: this.name(parts[0]!), args }
  }

  private args(node: SyntaxNode, inner: (n?: SyntaxNode) => Syntax): Argument[] {
    return this.parts(node).map((part) => {
      if (part.name !== 'NamedParameter') return { name: null, value: inner(part) }
      const [name, value] = this.parts(part)
      return { name: this.name(name!), value: inner(value) }
    })
  }

  private iteration(node: SyntaxNode, inner: (n?: SyntaxNode) => Syntax): Iteration {
    const [name, context] = this.parts(node)
    const [first, last] = this.parts(context!)
    return { name: this.name(name!), list: inner(first), to: last ? inner(last) : null }
  }
}
