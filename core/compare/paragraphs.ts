import { compareWords, type WordChange } from './words.ts'

/** Paragraphs in which two texts differ, word by word; those that are the same are left out. */
export function differingParagraphs(
  before: readonly string[],
  after: readonly string[],
): readonly (readonly WordChange[])[] {
  const paragraphs: WordChange[][] = [[]]
  for (const { kind, text } of compareWords(before.join('\n'), after.join('\n')))
    text.split('\n').forEach((part, i) => {
      if (i > 0) paragraphs.push([])
      if (part) paragraphs.at(-1)!.push({ kind, text: part })
    })
  return paragraphs.filter((paragraph) => paragraph.some(({ kind }) => kind !== 'same'))
}
