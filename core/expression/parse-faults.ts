import type { ExpressionProblem } from './syntax.ts'
import type { SyntaxNode } from '@lezer/common'

/** A fault while a text is read: where it stands and what is wrong. */
export class Fault extends Error {
  constructor(readonly problem: ExpressionProblem) {
    super(problem.message)
  }
}

/** Where a block comment begins that goes on to the end; the grammar takes such a one for nothing at all. */
export function unclosedComment(text: string): number | null {
  for (const found of text.matchAll(/"(?:\\.|[^"\\])*"|\/\/[^\n]*|\/\*[^]*?(\*\/|$)/g))
    if (found[0].startsWith('/*') && found[1] === '') return found.index
  return null
}

/** Nesting of brackets outside strings, counted before parsing so that no input can exhaust the stack. */
export function deepest(text: string): number {
  let [depth, most] = [0, 0]
  for (const character of text.replace(/"(\\.|[^"\\])*"|\/\/[^\n]*|\/\*[^]*?\*\//g, '')) {
    if ('([{'.includes(character)) most = Math.max(most, ++depth)
    else if (')]}'.includes(character)) depth--
  }
  return most
}

/** A fault at a place of the text. */
export const fault = (node: { from: number; to: number }, message: string) =>
  new Fault({ message, from: node.from, to: Math.max(node.to, node.from) })

/** Throws the first fault that the grammar found, in words. */
export function firstError(top: SyntaxNode, text: string): void {
  top.cursor().iterate((node) => {
    if (!node.type.isError) return
    const found = text.slice(node.from, node.to).trim()
    const rest = text.slice(node.from).trim()
    throw fault(
      node,
      found
        ? `“${found}” does not belong here.`
        : rest
          ? `Something is missing before “${rest.slice(0, 20)}”.`
          : 'The expression stops too early.',
    )
  })
}

const escapes: Record<string, string> = { n: '\n', r: '\r', t: '\t', '"': '"', "'": "'", '\\': '\\' }

/** A string literal without its quotes, escapes read (DMN 10.3.1.2). */
export const unquote = (text: string): string =>
  text
    .slice(1, -1)
    .replace(
      /\\(u([0-9a-fA-F]{4})|U([0-9a-fA-F]{6})|.)/g,
      (whole, escape: string, four?: string, six?: string) =>
        four || six ? String.fromCodePoint(parseInt((four ?? six)!, 16)) : (escapes[escape] ?? whole),
    )
