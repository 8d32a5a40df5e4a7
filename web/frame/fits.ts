import { nearest } from '#core/text/nearest.ts'

/** How well a line of the bar fits, 0 to 1: each word begins one of its words, stands in one, or is one with a wrong letter. */
export function fits(value: string, search: string, keywords: readonly string[] = []): number {
  const words = `${value} ${keywords.join(' ')}`.toLowerCase().split(/\s+/)
  const scores = search
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '')
    .map((word) => {
      if (words.some((each) => each.startsWith(word))) return 1
      if (words.some((each) => each.includes(word))) return 0.6
      return word.length >= 4 && nearest(word, words) !== null ? 0.3 : 0
    })
  return scores.length ? Math.min(...scores) : 1
}
