import type { Inline } from '#core/document/tree.ts'
import { fieldName, knownFormat } from './names.ts'

// Complex fields as a word processor writes them, ECMA-376 part 1, 17.16.

/** The instruction of a field: text, with fields inside it in their places. */
export type Instruction = readonly (string | Field)[]
/** A field of the word processor, with what it shows. */
export interface Field {
  readonly instruction: Instruction
  readonly result: readonly Inline[]
}

/** What a field becomes here. */
export type FieldMeaning =
  | {
      readonly kind: 'merge field'
      readonly name: string
      readonly label: string
      readonly format: string | null
    }
  | {
      readonly kind: 'phrases'
      readonly condition: string
      readonly then: Instruction
      readonly otherwise: Instruction
      readonly field: string
      /** The kind of value that the field is compared with; null: another field. */
      readonly type: 'number' | 'text' | null
    }
  | { readonly kind: 'page' | 'pages' }
  | { readonly kind: 'reference'; readonly bookmark: string }
  | { readonly kind: 'unknown'; readonly name: string }

/** One argument: a word, a text in quotes, or a field. */
type Token = { readonly words: Instruction; readonly quoted: boolean }

/** Splits an instruction into its arguments (17.16.4); quotes hold words together, fields inside stay whole. */
function tokens(instruction: Instruction): readonly Token[] {
  const found: Token[] = []
  let words: (string | Field)[] = []
  let quoted = false
  let open = false
  const end = () => {
    if (words.length || quoted) found.push({ words, quoted })
    words = []
    quoted = false
  }
  for (const piece of instruction) {
    if (typeof piece !== 'string') {
      words.push(piece)
      continue
    }
    for (const character of piece) {
      if (character === '"' || character === '“' || character === '”') {
        if (open) {
          open = false
          end()
        } else {
          end()
          open = true
          quoted = true
        }
      } else if (!open && /\s/.test(character)) end()
      else if (typeof words.at(-1) === 'string')
        words[words.length - 1] = `${words.at(-1) as string}${character}`
      else words.push(character)
    }
  }
  end()
  return found
}

const plain = (instruction: Instruction): string =>
  instruction.filter((piece) => typeof piece === 'string').join('')

const operators: Record<string, string> = { '=': '=', '<>': '!=', '<': '<', '>': '>', '<=': '<=', '>=': '>=' }

/** A comparand of an IF field as an expression: a field's name, a number, or a text. */
function comparand(token: Token): { expression: string; field: string | null; number: boolean } {
  const inner = token.words.find((piece) => typeof piece !== 'string')
  const meaning = inner ? meaningOf(inner) : null
  if (meaning?.kind === 'merge field') return { expression: meaning.name, field: meaning.name, number: false }
  const text = plain(token.words)
  const figure = text.replace(/,(?=\d{3})/g, '')
  if (!token.quoted && /^-?\d+(\.\d+)?$/.test(figure))
    return { expression: figure, field: null, number: true }
  return { expression: JSON.stringify(text), field: null, number: false }
}

/** The display format behind a field's `\\*`; other programs' formats (MERGEFORMAT, Upper) are none of ours. */
function formatOf(switches: readonly Token[]): string | null {
  const at = switches.findIndex(({ words }) => plain(words) === '\\*')
  return at < 0 ? null : knownFormat(plain(switches[at + 1]?.words ?? []))
}

/** What a field means for a template. */
export function meaningOf({ instruction }: Field): FieldMeaning {
  const [name, ...args] = tokens(instruction)
  const kind = name ? plain(name.words).toUpperCase() : ''
  const first = args[0] ? plain(args[0].words) : ''
  if (kind === 'MERGEFIELD' && first)
    return { kind: 'merge field', name: fieldName(first), label: first, format: formatOf(args.slice(1)) }
  if (kind === 'PAGE') return { kind: 'page' }
  if (kind === 'NUMPAGES' || kind === 'SECTIONPAGES') return { kind: 'pages' }
  if (kind === 'REF' && first) return { kind: 'reference', bookmark: first }
  if (kind === 'IF' && args.length >= 3) {
    const [left, operator, right, then, otherwise] = args
    const sign = operators[plain(operator!.words)]
    const [a, b] = [comparand(left!), comparand(right!)]
    const field = a.field ?? b.field
    if (sign && field && !/[*?]/.test(b.expression))
      return {
        kind: 'phrases',
        condition: `${a.expression} ${sign} ${b.expression}`,
        then: then?.words ?? [],
        otherwise: otherwise?.words ?? [],
        field,
        // A name that sounds like yes or no is a text all the same where it is compared with “yes”.
        type: a.number || b.number ? 'number' : a.field && b.field ? null : 'text',
      }
  }
  return { kind: 'unknown', name: kind || 'a field' }
}
