import { diffArrays } from 'diff'

/** A stretch of words that both texts have, or only the one before or after. */
export interface WordChange {
  readonly kind: 'same' | 'added' | 'removed'
  readonly text: string
}

/** Words with the white space behind them; punctuation for itself, merge fields whole. */
const tokens = (text: string): string[] =>
  text.match(
    /\{\{[^{}]*\}\}\s*|[\p{L}\p{N}]+(?:(?:[’'-]|(?<=\p{N})[.,](?=\p{N}))[\p{L}\p{N}]+)*\s*|[^\p{L}\p{N}\s]\s*|\s+/gu,
  ) ?? []

/** Above this many words a comparison word by word takes too long; then the whole counts as replaced. */
const MOST_WORDS = 20_000

/** What changed between two texts, word by word; stretches of one kind are joined. */
export function compareWords(before: string, after: string): readonly WordChange[] {
  if (before === after) return before ? [{ kind: 'same', text: before }] : []
  const [left, right] = [tokens(before), tokens(after)]
  if (left.length + right.length > MOST_WORDS)
    return [
      { kind: 'removed', text: before },
      { kind: 'added', text: after },
    ]
  return diffArrays(left, right, { comparator: (a, b) => a.trim() === b.trim() }).map(
    ({ value, added, removed }) => ({
      kind: added ? 'added' : removed ? 'removed' : 'same',
      text: value.join(''),
    }),
  )
}

/** How much two texts have in common, 0 to 1: Dice coefficient over their words. */
export function likeness(before: string, after: string): number {
  const count = (text: string) => {
    const words = new Map<string, number>()
    for (const word of tokens(text)
      .map((token) => token.trim().toLowerCase())
      .filter((token) => /[\p{L}\p{N}]/u.test(token)))
      words.set(word, (words.get(word) ?? 0) + 1)
    return words
  }
  const [left, right] = [count(before), count(after)]
  const size = (words: ReadonlyMap<string, number>) => [...words.values()].reduce((a, b) => a + b, 0)
  const shared = [...left].reduce((sum, [word, n]) => sum + Math.min(n, right.get(word) ?? 0), 0)
  const whole = size(left) + size(right)
  return whole === 0 ? 1 : (2 * shared) / whole
}
