import type { Element } from '@xmldom/xmldom'
import type { Inline } from '#core/document/tree.ts'
import { attribute, element } from './package.ts'

/** How the words of a cell are aligned. */
export function alignment(cell: Element): 'left' | 'center' | 'right' {
  const value = attribute(element(element(element(cell, 'p'), 'pPr'), 'jc'), 'val')
  return value === 'center' ? 'center' : value === 'right' || value === 'end' ? 'right' : 'left'
}

/** Twips as inches, to a tenth. */
export const inches = (twips: number): string => String(Math.round(twips / 144) / 10)

/** Tabs as what stands between the parts of a head or foot. */
export const tabbed = (text: string): string => text.split(/\t+/).join(' || ')

/** An inline as a pattern of heads and feet has it. */
export const runningText = (part: Inline): string =>
  part.type === 'text'
    ? part.text
    : part.type === 'mergeField'
      ? `{{${part.attrs.field}}}`
      : part.type === 'hardBreak'
        ? ' '
        : ''

/** Tabs and white space at the ends of a paragraph say nothing. */
export function tidy(content: readonly Inline[]): readonly Inline[] {
  const plain = content
    .map((part): Inline => (part.type === 'text' ? { ...part, text: part.text.replace(/\t+/g, ' ') } : part))
    .filter((part) => part.type !== 'text' || part.text !== '')
  const first = plain.findIndex((part) => part.type !== 'text' || part.text.trim() !== '')
  const last = plain.findLastIndex((part) => part.type !== 'text' || part.text.trim() !== '')
  if (first < 0) return []
  return plain.slice(first, last + 1).map((part, i, all) => {
    if (part.type !== 'text') return part
    const start = i === 0 ? part.text.trimStart() : part.text
    return { ...part, text: i === all.length - 1 ? start.trimEnd() : start }
  })
}
