import type { Arithmetic, Comparator } from './values/operators.ts'

/** Where a part of an expression stands: UTF-16 offsets, end exclusive. */
export interface Span {
  readonly from: number
  readonly to: number
}

/** A fault in an expression, at the word it concerns. */
export interface ExpressionProblem extends Span {
  readonly message: string
}

/** An expression as it was written, with where each part stands. */
export type Syntax = Span &
  (
    | { readonly kind: 'number'; readonly text: string }
    | { readonly kind: 'string'; readonly value: string }
    | { readonly kind: 'boolean'; readonly value: boolean }
    | { readonly kind: 'null' }
    | { readonly kind: 'name'; readonly name: string }
    | { readonly kind: 'path'; readonly of: Syntax; readonly name: string }
    | { readonly kind: 'negative'; readonly of: Syntax }
    | {
        readonly kind: 'arithmetic'
        readonly operator: Arithmetic
        readonly left: Syntax
        readonly right: Syntax
      }
    | {
        readonly kind: 'comparison'
        readonly operator: Comparator
        readonly left: Syntax
        readonly right: Syntax
      }
    | { readonly kind: 'and' | 'or'; readonly left: Syntax; readonly right: Syntax }
    | { readonly kind: 'in'; readonly value: Syntax; readonly tests: readonly Test[] }
    | { readonly kind: 'if'; readonly test: Syntax; readonly then: Syntax; readonly otherwise: Syntax }
    | { readonly kind: 'filter'; readonly of: Syntax; readonly by: Syntax }
    | { readonly kind: 'call'; readonly name: string; readonly args: readonly Argument[] }
    | { readonly kind: 'list'; readonly items: readonly Syntax[] }
    | {
        readonly kind: 'context'
        readonly entries: readonly { readonly key: string; readonly value: Syntax }[]
      }
    | RangeSyntax
    | { readonly kind: 'for' | 'some' | 'every'; readonly over: readonly Iteration[]; readonly body: Syntax }
    | { readonly kind: 'instance of'; readonly value: Syntax; readonly type: FeelType }
    | { readonly kind: 'function'; readonly parameters: readonly string[]; readonly body: Syntax }
  )

/** A type as `instance of` names it: plain, or with the types of what is inside (DMN 10.3.1.2, rules 53 to 56). */
export type FeelType =
  | { readonly kind: 'plain'; readonly name: string }
  | { readonly kind: 'list'; readonly of: FeelType }
  | { readonly kind: 'range'; readonly of: FeelType }
  | {
      readonly kind: 'context'
      readonly entries: readonly { readonly key: string; readonly type: FeelType }[]
    }

/** A range with its ends and whether each belongs to it. */
export type RangeSyntax = Span & {
  readonly kind: 'range'
  readonly low: Syntax
  readonly high: Syntax
  readonly lowIncluded: boolean
  readonly highIncluded: boolean
}

/** One test behind `in`: a comparison with the value, or an expression it is compared with or contained in. */
export type Test = { readonly operator: Comparator; readonly with: Syntax } | { readonly expression: Syntax }

/** What a function is called with; `name` is null where it goes by its place. */
export interface Argument {
  readonly name: string | null
  readonly value: Syntax
}

/** What a loop goes through, under a name. */
export interface Iteration {
  readonly name: string
  readonly list: Syntax
  /** End of a range of whole numbers, for `for i in 1..3`. */
  readonly to: Syntax | null
}

/** The parts directly inside another, in reading order. */
export function children(node: Syntax): readonly Syntax[] {
  switch (node.kind) {
    case 'path':
    case 'negative':
      return [node.of]
    case 'arithmetic':
    case 'comparison':
    case 'and':
    case 'or':
      return [node.left, node.right]
    case 'in':
      return [node.value, ...node.tests.map((test) => ('expression' in test ? test.expression : test.with))]
    case 'if':
      return [node.test, node.then, node.otherwise]
    case 'filter':
      return [node.of, node.by]
    case 'call':
      return node.args.map((argument) => argument.value)
    case 'function':
      return [node.body]
    case 'list':
      return node.items
    case 'context':
      return node.entries.map((entry) => entry.value)
    case 'range':
      return [node.low, node.high]
    case 'for':
    case 'some':
    case 'every':
      return [...node.over.flatMap(({ list, to }) => (to ? [list, to] : [list])), node.body]
    case 'instance of':
      return [node.value]
    default:
      return []
  }
}

/** How many parts an expression has, itself included. */
export const sizeOf = (node: Syntax): number =>
  children(node).reduce((size, child) => size + sizeOf(child), 1)
