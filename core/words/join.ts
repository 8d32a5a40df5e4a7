const lists = new Map<string, Intl.ListFormat>()

/** Texts as a sentence of the language has them: "a, b and c" (CLDR list patterns; English without the last comma). */
export function joined(
  parts: readonly string[],
  type: 'conjunction' | 'disjunction',
  language: string,
): string {
  if (parts.length === 1) return parts[0]!
  // British English is the English of the list pattern without a comma before the last item, as contracts here have it.
  const locale = /^en\b/.test(language) ? 'en-GB' : language
  const key = `${locale} ${type}`
  const format = lists.get(key) ?? new Intl.ListFormat(known(locale), { type, style: 'long' })
  if (lists.size < MOST_LISTS) lists.set(key, format)
  return format.format(parts)
}

/** Formats kept: languages and kinds of lists are few, but what is asked for may be any text. */
const MOST_LISTS = 100

/** A tag that is none is read as English. */
function known(tag: string): string {
  try {
    return Intl.getCanonicalLocales(tag)[0] ?? 'en-GB'
  } catch (error) {
    if (error instanceof RangeError) return 'en-GB'
    throw error
  }
}

const PARTICLES = new Set([
  'van',
  'von',
  'de',
  'der',
  'den',
  'del',
  'della',
  'di',
  'da',
  'la',
  'le',
  'du',
  'zu',
])

/**
 * Given and family names of a full name in western order: the last word, with particles before it, is the family name;
 * "Ellery, Maud" is read the other way round. What people are really called only they know: a guess, shown as one.
 */
export function nameParts(full: string): { readonly first: string; readonly last: string } {
  const plain = full.trim().replace(/\s+/g, ' ')
  const comma = plain.indexOf(', ')
  if (comma > 0) return { first: plain.slice(comma + 2), last: plain.slice(0, comma) }
  const words = plain.split(' ')
  let start = words.length - 1
  while (start > 1 && PARTICLES.has(words[start - 1]!.toLowerCase())) start--
  return start < 1
    ? { first: plain, last: plain }
    : { first: words.slice(0, start).join(' '), last: words.slice(start).join(' ') }
}
