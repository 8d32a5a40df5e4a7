import { builtIns } from './functions.ts'
import type { NameTypes } from './check.ts'
import { parseExpression } from './parse.ts'
import { children, type Syntax } from './syntax.ts'

/** What may be written where the cursor is. */
export interface Suggestion {
  readonly label: string
  readonly kind: 'field' | 'function' | 'word'
  /** What is put in for it, with the cursor at `at`. */
  readonly insert: string
  readonly at: number
  readonly detail: string
  readonly help: string
}

const WORDS = [
  'and',
  'or',
  'in',
  'between',
  'if',
  'then',
  'else',
  'for',
  'return',
  'some',
  'every',
  'satisfies',
  'true',
  'false',
  'null',
]

/** How a function is called, its parameters in order: "add months(date, months, [end of month])". */
export function signatureOf(name: string): string | null {
  const known = builtIns.get(name)
  if (!known) return null
  const first = known.parameters.length - (known.optional ?? 0)
  const parameters = known.parameters.map((parameter, i) => (i >= first ? `[${parameter}]` : parameter))
  return `${name}(${parameters.join(', ')}${known.variadic ? ', …' : ''})`
}

/** The word being written at a place: where it begins, and its letters so far. Function names may have blanks in them. */
export function wordAt(text: string, at: number): { readonly from: number; readonly text: string } {
  const before = text.slice(0, at)
  // Inside a string nothing is suggested.
  if ((before.replace(/\\./g, '').match(/"/g)?.length ?? 0) % 2 === 1) return { from: at, text: '' }
  const found = // eslint-disable-next-line regexp/no-super-linear-move -- of two hundred characters
    /[\p{L}_][\p{L}\p{N}_.]*$/u.exec(before.slice(-200))?.[0] ?? ''
  return { from: at - found.length, text: found }
}

/** What may stand at a place, what begins with the word first, then what has it somewhere. */
export function suggestionsAt(text: string, at: number, names: NameTypes): readonly Suggestion[] {
  const word = wordAt(text, at).text.toLowerCase()
  const rank = (label: string) => {
    const lower = label.toLowerCase()
    return lower.startsWith(word)
      ? 0
      : lower.split(/[ ._]/).some((part) => part.startsWith(word))
        ? 1
        : lower.includes(word)
          ? 2
          : 3
  }
  const fields = [...names]
    .filter(([name]) => !name.includes('[]'))
    .map(([name, type]): Suggestion => ({
      label: name,
      kind: 'field',
      insert: name,
      at: name.length,
      detail: type,
      help: '',
    }))
  const functions = [...builtIns].map(([name, known]): Suggestion => ({
    label: name,
    kind: 'function',
    insert: `${name}()`,
    at: name.length + (known.parameters.length ? 1 : 2),
    detail: known.result,
    help: `${signatureOf(name) ?? ''}\n${known.help}.`,
  }))
  const words = WORDS.map((label): Suggestion => ({
    label,
    kind: 'word',
    insert: label,
    at: label.length,
    detail: '',
    help: '',
  }))
  return [...fields, ...functions, ...words]
    .map((suggestion, i) => ({ suggestion, i, rank: rank(suggestion.label) }))
    .filter((each) => each.rank < 3)
    .sort((a, b) => a.rank - b.rank || a.i - b.i)
    .map(({ suggestion }) => suggestion)
    .slice(0, 60)
}

/** The function whose brackets a place stands in, and which of its parameters: for help while its arguments are typed. */
export function callAt(
  text: string,
  at: number,
): { readonly name: string; readonly parameter: number } | null {
  let depth = 0
  let parameter = 0
  let quoted = false
  for (let i = at - 1; i >= 0; i--) {
    const character = text[i]!
    if (character === '"') quoted = !quoted
    if (quoted) continue
    if (')]}'.includes(character)) depth++
    else if ('[{'.includes(character)) depth--
    else if (character === ',' && depth === 0) parameter++
    else if (character === '(') {
      if (depth > 0) {
        depth--
        continue
      }
      const before = text.slice(0, i)
      const name = [...builtIns.keys()]
        .filter(
          (each) =>
            before.toLowerCase().endsWith(each) && !/[\p{L}\p{N}_.]$/u.test(before.slice(0, -each.length)),
        )
        .sort((a, b) => b.length - a.length)[0]
      return name ? { name, parameter } : null
    }
  }
  return null
}

/** The smallest part of an expression around a place. */
export function partAt(text: string, at: number): Syntax | null {
  const parsed = parseExpression(text)
  if (!parsed.ok) return null
  let node = parsed.syntax
  for (;;) {
    const inner = children(node).find(({ from, to }) => from <= at && at <= to)
    if (!inner) return node
    node = inner
  }
}
