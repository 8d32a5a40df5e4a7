import type { Body } from '../document/tree.ts'
import { allBlocks, inlines, partText } from '../document/walk.ts'

/** A term the document defines, and where. */
export interface DefinedTerm {
  readonly term: string
  readonly block: string
  readonly uses: number
}

/** The defined terms of a document, and what is used as one without being defined. */
export interface Terms {
  readonly defined: readonly DefinedTerm[]
  /** Words used like defined terms, with no definition, and the block of the first use. */
  readonly undefined: readonly { readonly term: string; readonly block: string; readonly uses: number }[]
}

const WORD = '\\p{Lu}[\\p{L}\\p{N}’-]*'
const PHRASE = `${WORD}(?: (?:of |and |the )?${WORD}){0,3}`
/** (the “Site”), (“Site”), (each a “Party”), “Site” means …: how contracts define. Common practice. */
const DEFINITIONS = [
  new RegExp(`\\((?:\\p{L}+,? ){0,5}[“"]([^”"]{2,60})[”"]\\)`, 'gu'),
  new RegExp(`[“"]([^”"]{2,60})[”"] (?:means|shall mean|has the meaning|refers to)`, 'gu'),
]
/** A capitalised word after an article in the middle of a sentence stands for something defined. */
const USE = new RegExp(`(?<![.:;!?]\\s|^)\\b(?:the|this|each|such|any|either) (${PHRASE})`, 'gu')

const singular = (term: string): string =>
  term.replace(/(?<=\p{L}{3})(?:ies|s)$/u, (end) => (end === 'ies' ? 'y' : ''))

/** Terms that are defined but not used, and capitalised words that are used like terms but not defined. */
export function definedTerms(document: Body): Terms {
  const texts = [...allBlocks(document.content)]
    .filter((block) => inlines(block).length > 0 && block.type !== 'heading')
    .map((block) => ({ block: block.attrs.id, text: partText(block).replace(/\{\{[^{}]*\}\}/g, '…') }))
  const definitions = new Map<string, string>()
  for (const { block, text } of texts)
    for (const pattern of DEFINITIONS)
      for (const match of text.matchAll(pattern)) {
        const term = match[1]!.trim()
        if (!definitions.has(term)) definitions.set(term, block)
      }
  const whole = texts.map(({ text }) => text).join('\n')
  const defined = [...definitions].map(([term, block]) => {
    const found = whole.match(new RegExp(`(?<![\\p{L}“"])${anyNumber(singular(term))}(?![\\p{L}”"])`, 'gu'))
    return { term, block, uses: found?.length ?? 0 }
  })
  const known = new Set([...definitions.keys()].flatMap((term) => [term, singular(term)]))
  const used = new Map<string, { block: string; uses: number }>()
  // A document that defines nothing with capitals does not use them as terms either.
  if (definitions.size > 0)
    for (const { block, text } of texts)
      for (const match of text.matchAll(USE)) {
        const term = match[1]!
        const first = term.split(' ')[0]!
        if (known.has(term) || known.has(singular(term)) || known.has(first) || known.has(singular(first)))
          continue
        const before = used.get(term)
        used.set(term, { block: before?.block ?? block, uses: (before?.uses ?? 0) + 1 })
      }
  return {
    defined,
    // Once may be a name; twice is a habit.
    undefined: [...used].filter(([, { uses }]) => uses > 1).map(([term, found]) => ({ term, ...found })),
  }
}

/** A pattern for a term in the singular or the plural. */
const anyNumber = (term: string): string =>
  /[^aeiou]y$/.test(term) ? `${escaped(term.slice(0, -1))}(?:y|ies)` : `${escaped(term)}(?:s|es)?`

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
