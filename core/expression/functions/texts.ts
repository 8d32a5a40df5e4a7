import { RE2JS } from 're2js'
import { LONGEST_TEXT, spend, TooLong } from '../values/budget.ts'
import { isList, number, toText, type Value } from '../values/value.ts'
import { type BuiltIns, characters, integer, one } from './built-in.ts'

/** DMN 1.3 10.3.4.3. */
export const textFunctions: BuiltIns = {
  string: one('from', 'string', 'As text', (from) => (from === null ? null : toText(from))),
  'string length': one('string', 'number', 'Number of characters', (text) =>
    typeof text === 'string' ? number(characters(text).length) : null,
  ),
  'upper case': one('string', 'string', 'In capitals', (text) =>
    typeof text === 'string' ? text.toUpperCase() : null,
  ),
  'lower case': one('string', 'string', 'In small letters', (text) =>
    typeof text === 'string' ? text.toLowerCase() : null,
  ),
  trim: one('string', 'string', 'Without spaces at either end', (text) =>
    typeof text === 'string' ? text.trim() : null,
  ),
  substring: {
    parameters: ['string', 'start position', 'length'],
    optional: 1,
    result: 'string',
    help: 'Part of a text; the first character is 1, -1 is the last',
    call: ([text, start, length]) => {
      const from = integer(start!)
      if (typeof text !== 'string' || !from) return null
      const all = characters(text)
      const first = from > 0 ? from - 1 : all.length + from
      const count = length === undefined || length === null ? all.length : integer(length)
      return count === null || count < 0 || first < 0 || first >= all.length
        ? null
        : all.slice(first, first + count).join('')
    },
  },
  contains: {
    parameters: ['string', 'match'],
    result: 'boolean',
    help: 'Whether a text has another in it',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string' ? text.includes(match) : null,
  },
  'starts with': {
    parameters: ['string', 'match'],
    result: 'boolean',
    help: 'Whether a text begins with another',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string' ? text.startsWith(match) : null,
  },
  'ends with': {
    parameters: ['string', 'match'],
    result: 'boolean',
    help: 'Whether a text ends with another',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string' ? text.endsWith(match) : null,
  },
  'string join': {
    parameters: ['list', 'delimiter', 'prefix', 'suffix'],
    optional: 3,
    result: 'string',
    help: 'Texts of a list with a delimiter between, a prefix before and a suffix after all of them',
    types: ['list', 'string', 'string', 'string'],
    call: ([list, delimiter, prefix, suffix]) => {
      const [between, before, after] = [delimiter ?? '', prefix ?? '', suffix ?? '']
      if (typeof between !== 'string' || typeof before !== 'string' || typeof after !== 'string') return null
      if (!isList(list!)) return null
      const parts = list.filter((item) => typeof item === 'string')
      const length = parts.reduce((sum, part) => sum + part.length + between.length, 0)
      return length + before.length + after.length > LONGEST_TEXT
        ? null
        : before + parts.join(between) + after
    },
  },
  matches: {
    parameters: ['input', 'pattern', 'flags'],
    optional: 1,
    types: ['string', 'string', 'string'],
    result: 'boolean',
    help: 'Whether a pattern is found in a text; ^ and $ stand for its ends',
    call: ([input, source, flags]) => {
      const made = pattern(source!, flags ?? '')
      return typeof input === 'string' && made ? made.over(input).find() : null
    },
  },
  replace: {
    parameters: ['input', 'pattern', 'replacement', 'flags'],
    optional: 1,
    types: ['string', 'string', 'string', 'string'],
    result: 'string',
    help: 'A text with what a pattern finds replaced; $1 stands for its first group',
    call: ([input, source, by, flags]) => {
      const made = pattern(source!, flags ?? '')
      if (typeof input !== 'string' || typeof by !== 'string' || !made) return null
      // Before it is made: every place between two characters may be found, and `by` may name what was found.
      if ((input.length + 1) * (by.length + 1) > MOST_REPLACED) return null
      // Each place that is found costs more than looking for it.
      spend(input.length >> 1)
      return made.over(input).replaceAll(by)
    },
  },
  split: {
    parameters: ['string', 'delimiter'],
    types: ['string', 'string'],
    result: 'list',
    help: 'The parts of a text between what a pattern finds',
    call: ([text, delimiter]) => {
      const made = pattern(delimiter!, '')
      return typeof text === 'string' && made ? made.split(text) : null
    },
  },
  'substring before': {
    parameters: ['string', 'match'],
    types: ['string', 'string'],
    result: 'string',
    help: 'What stands before a text within another; nothing where it is not found',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string'
        ? text.slice(0, Math.max(0, text.indexOf(match)))
        : null,
  },
  'substring after': {
    parameters: ['string', 'match'],
    types: ['string', 'string'],
    result: 'string',
    help: 'What stands after a text within another; nothing where it is not found',
    call: ([text, match]) =>
      typeof text === 'string' && typeof match === 'string'
        ? text.includes(match)
          ? text.slice(text.indexOf(match) + match.length)
          : ''
        : null,
  },
}

/** Characters that replacing could come to at the most. */
const MOST_REPLACED = 5 * LONGEST_TEXT

interface Pattern {
  over(text: string): ReturnType<RE2JS['matcher']>
  split(text: string): readonly string[]
}

/**
 * A pattern of XML Schema as RE2 takes it: linear in time whatever the text, and so safe for what comes from outside. How
 * long it takes is the text's length times the pattern's, in which `x{1000}` counts a thousand times.
 */
function pattern(source: Value, flags: Value): Pattern | null {
  if (typeof source !== 'string') return null
  const wanted = typeof flags === 'string' ? flags : ''
  if (!/^[smix]*$/.test(wanted)) return null
  const plain = wanted.includes('x') ? source.replace(/\s+/g, '') : source
  const weight = plain.length * repeats(plain)
  const charge = (text: string) => spend(Math.ceil((weight * (text.length + 1)) / 24))
  spend(Math.ceil(weight / 16))
  try {
    const made = RE2JS.compile(
      plain,
      (wanted.includes('i') ? RE2JS.CASE_INSENSITIVE : 0) |
        (wanted.includes('m') ? RE2JS.MULTILINE : 0) |
        (wanted.includes('s') ? RE2JS.DOTALL : 0),
    )
    return {
      over: (text) => {
        charge(text)
        return made.matcher(text)
      },
      split: (text) => {
        charge(text)
        return made.split(text, -1)
      },
    }
  } catch (error) {
    if (error instanceof TooLong) throw error
    return null
  }
}

/** How many times over the counted repeats of a pattern may unfold it; RE2 takes a thousand at the most. */
const repeats = (pattern: string): number =>
  Math.min(
    1000,
    [...pattern.matchAll(/\{(\d{1,4})(?:,(\d{0,4}))?\}/g)].reduce(
      (product, [, least, most]) => product * Math.max(1, Number(least), Number(most ?? 0)),
      1,
    ),
  )
