/** Names between double braces, with white space around allowed: `{{ buyer.name }}`. */
const PLACE = /\{\{([^{}]+)\}\}/g

/** The fields that a pattern names. */
export const patternNames = (pattern: string): readonly string[] =>
  [...pattern.matchAll(PLACE)].map((match) => match[1]!.trim()).filter((name) => name !== '')

/** Fills a pattern; a name without a value becomes nothing, and spaces left double by that are folded. */
export const fillPattern = (pattern: string, value: (name: string) => string | null): string =>
  pattern
    .replace(PLACE, (whole, name: string) => (name.trim() === '' ? whole : (value(name.trim()) ?? '')))
    .replace(/ {2,}/g, ' ')
    .trim()

/** Signs without a shape of their own: those of direction, joiners, marks of order, tags. */
const UNSEEN = /[\p{Default_Ignorable_Code_Point}\p{Cf}\u2028\u2029]/gu

/** A text without what cannot be seen. */
export const seen = (text: string): string => text.replace(UNSEEN, '')

/** Whether a reader would see anything of it: a letter, figure or sign with a shape. */
export const isVisible = (text: string): boolean =>
  /[\p{L}\p{N}\p{P}\p{S}]/u.test(seen(text).replaceAll('\u2800', ''))

/** Whether it has a letter or figure that can be seen, as a signature must. */
export const isSignature = (text: string): boolean => /[\p{L}\p{N}]/u.test(seen(text))

/**
 * A text as a file name that every common file system takes: no reserved characters, no control characters, no ends of
 * dots or spaces, at most 120 characters.
 */
export function fileName(text: string): string {
  const clean = text
    .normalize('NFC')
    // Signs that turn the direction of writing or cannot be seen make a name look like another.
    .replace(UNSEEN, '')
    // eslint-disable-next-line no-control-regex -- control characters are what is removed
    .replace(/[\u0000-\u001f\u007f<>:"/\\|?*]/g, ' ')
    .replace(/\s+/g, ' ')
    .slice(0, 120)
    // eslint-disable-next-line regexp/no-super-linear-move -- of 120 characters
    .replace(/^[. ]+|[. ]+$/g, '')
  return /^(con|prn|aux|nul|com\d|lpt\d)$/i.test(clean) ? `${clean}_` : clean || 'agreement'
}
