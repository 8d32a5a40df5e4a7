/** Names between double braces, with white space around allowed: `{{ grower.name }}`. */
const PLACE = /\{\{\s*([^{}]+?)\s*\}\}/g

export const patternNames = (pattern: string): readonly string[] =>
  [...pattern.matchAll(PLACE)].map((match) => match[1]!)

/** Fills a pattern; a name without a value becomes nothing, and spaces left double by that are folded. */
export const fillPattern = (pattern: string, value: (name: string) => string | null): string =>
  pattern
    .replace(PLACE, (_, name: string) => value(name) ?? '')
    .replace(/ {2,}/g, ' ')
    .trim()

/**
 * A text as a file name that every common file system takes: no reserved characters, no control characters, no ends of
 * dots or spaces, at most 120 characters.
 */
export function fileName(text: string): string {
  const clean = text
    .normalize('NFC')
    // eslint-disable-next-line no-control-regex -- control characters are what is removed
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, ' ')
    .replace(/\s+/g, ' ')
    .slice(0, 120)
    .replace(/^[. ]+|[. ]+$/g, '')
  return /^(con|prn|aux|nul|com\d|lpt\d)$/i.test(clean) ? `${clean}_` : clean || 'agreement'
}
