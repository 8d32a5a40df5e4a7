import {
  BLANK_KINDS,
  type BlankKind,
  type Block,
  type Inline,
  type PassageAttributes,
  type Text,
} from '#core/document/tree.ts'
import { fieldName, knownFormat } from './names.ts'

// Markers in braces: `{{name}}` is a merge field; `{{if …}}`, `{{else if …}}`, `{{otherwise}}`, `{{for each …}}` and
// `{{end}}` stand around what they concern, in a line or in paragraphs of their own; blanks and signatures as the
// writer in server/compose/docx/template.ts puts them.

/** What a marker in double braces says. */
export type Marker =
  | { readonly kind: 'field'; readonly name: string; readonly label: string; readonly format: string | null }
  | {
      readonly kind: 'open'
      readonly condition: string | null
      readonly alternative: boolean
      readonly repeat: string | null
    }
  | { readonly kind: 'end' }
  | { readonly kind: 'blank'; readonly blank: Inline & { readonly type: 'blank' } }
  | { readonly kind: 'signatures'; readonly roles: readonly string[] }

const straight = (text: string): string => text.replace(/[“”„]/g, '"').replace(/[‘’]/g, "'")

/** What a condition was before it was written into a marker, where the document remembers. */
export type Meant = (written: string) => string
const asWritten: Meant = (written) => written

/** Finds the condition again that a marker was made of: by its number, or by its words with their quotes as they were. */
export function meantBy(conditions: readonly string[]): Meant {
  const byWords = new Map(conditions.map((condition) => [straight(condition.trim()), condition]))
  return (written) => {
    const number = /^condition (\d+)$/.exec(written)?.[1]
    return (number === undefined ? byWords.get(written) : conditions[Number(number) - 1]) ?? written
  }
}

/** Reads a marker by its text between the braces; what it does not know is a merge field. */
export function readMarker(text: string, meant: Meant = asWritten): Marker {
  const inner = text.trim()
  const begins = (word: string) =>
    inner.toLowerCase().startsWith(`${word} `) ? straight(inner.slice(word.length + 1).trim()) : null
  const elseIf = begins('else if')
  if (elseIf !== null) return { kind: 'open', condition: meant(elseIf), alternative: true, repeat: null }
  const condition = begins('if')
  if (condition !== null)
    return { kind: 'open', condition: meant(condition), alternative: false, repeat: null }
  const repeat = begins('for each')
  if (repeat !== null) return { kind: 'open', condition: null, alternative: false, repeat: fieldName(repeat) }
  if (/^(otherwise|else)$/i.test(inner))
    return { kind: 'open', condition: null, alternative: true, repeat: null }
  if (/^end( if)?$/i.test(inner)) return { kind: 'end' }
  const signatures = begins('signatures')
  if (signatures !== null)
    return {
      kind: 'signatures',
      roles: signatures
        .split(',')
        .map((role) => role.trim())
        .filter(Boolean),
    }
  const blank = /^blank (\S+) (\S+) "([^"]*)"(.*)$/i.exec(straight(inner))
  if (blank && (BLANK_KINDS as readonly string[]).includes(blank[1]!))
    return { kind: 'blank', blank: readBlank(blank) }
  const [name = '', format = ''] = inner.split('|')
  return { kind: 'field', name: fieldName(name), label: name.trim(), format: knownFormat(format.trim()) }
}

function readBlank([, kind, role, label, more = '']: RegExpExecArray): Inline & { type: 'blank' } {
  const part = (word: string) => new RegExp(`, ${word} ([^,]+)`).exec(more)?.[1]?.trim()
  const options = part('of')?.split(' / ')
  const prefill = part('from')
  return {
    type: 'blank',
    attrs: {
      id: '',
      kind: kind as BlankKind,
      role: role!,
      label: label!,
      required: !more.includes(', optional'),
      ...(prefill ? { prefill } : {}),
      ...(options ? { options } : {}),
    },
  }
}

/** Text pieces joined where they are styled alike, and markers that run over several pieces made whole. */
export function joinMarkers(content: readonly Inline[]): readonly Inline[] {
  const joined: Inline[] = []
  for (const part of content) {
    const last = joined.at(-1)
    const open = last?.type === 'text' && last.text.lastIndexOf('{{') > last.text.lastIndexOf('}}')
    const half = last?.type === 'text' && last.text.endsWith('{')
    const same =
      last?.type === 'text' &&
      part.type === 'text' &&
      JSON.stringify(last.marks ?? []) === JSON.stringify(part.marks ?? [])
    if (last?.type === 'text' && part.type === 'text' && (open || half || same))
      joined[joined.length - 1] = { ...last, text: last.text + part.text }
    else joined.push(part)
  }
  return joined
}

/** What a paragraph of nothing but markers says; null where it says anything else. */
export function markersOnly(block: Block, meant: Meant = asWritten): readonly Marker[] | null {
  if (block.type !== 'paragraph') return null
  const text = (block.content ?? [])
    .map((part) => (part.type === 'text' ? part.text : ' x '))
    .join('')
    .trim()
  if (!/^(\{\{[^{}]*\}\}\s*)+$/.test(text)) return null
  const found = [...text.matchAll(/\{\{([^{}]*)\}\}/g)].map((match) => readMarker(match[1]!, meant))
  return found.every(({ kind }) => kind === 'open' || kind === 'end' || kind === 'signatures') ? found : null
}

/** Markers in a line as what they mean: merge fields, blanks, and phrases around what stands between two of them. */
export function readInlineMarkers(content: readonly Inline[], meant: Meant = asWritten): readonly Inline[] {
  const stack: { attrs: Omit<PassageAttributes, 'id'>; inner: Inline[] }[] = []
  const top: Inline[] = []
  const here = () => stack.at(-1)?.inner ?? top
  const close = () => {
    const done = stack.pop()
    if (done) here().push({ type: 'phrase', attrs: { id: '', ...done.attrs }, content: done.inner })
  }
  for (const part of joinMarkers(content)) {
    if (part.type !== 'text') {
      here().push(part)
      continue
    }
    for (const [i, piece] of part.text.split(/\{\{([^{}]*)\}\}/).entries()) {
      if (i % 2 === 0) {
        if (piece) here().push({ ...part, text: piece })
        continue
      }
      const marker = readMarker(piece, meant)
      if (marker.kind === 'field')
        here().push({
          type: 'mergeField',
          attrs: { field: marker.name, format: marker.format },
          ...marksOf(part),
        })
      else if (marker.kind === 'blank') here().push(marker.blank)
      else if (marker.kind === 'end') close()
      else if (marker.kind === 'open') {
        // In a line an alternative ends the phrase before it by itself.
        if (marker.alternative && stack.length) close()
        stack.push({
          attrs: { condition: marker.condition, alternative: marker.alternative, repeat: marker.repeat },
          inner: [],
        })
      }
    }
  }
  while (stack.length) close()
  return top
}

const marksOf = (part: Text) => (part.marks ? { marks: part.marks } : {})

/** What an opening marker says of the passages up to its end. */
export interface Open {
  readonly condition: string | null
  readonly alternative: boolean
  readonly repeat: string | null
}

const isPlain = ({ attrs }: Block): boolean => attrs.condition === null && !attrs.alternative && !attrs.repeat

/** Several blocks between two markers: each takes over what the marker says. */
export const under = (blocks: readonly Block[], open: Open): readonly Block[] =>
  blocks.map((block, i) => withOpen(block, open, i, blocks.length))

function withOpen(block: Block, open: Open, index: number, count: number): Block {
  const both = (left: string | null, right: string | null) =>
    left === null ? right : right === null ? left : `(${left}) and (${right})`
  const attrs = {
    ...block.attrs,
    condition: both(open.condition, block.attrs.condition),
    // Only the first of several blocks can be an alternative to what stands before it.
    ...(open.alternative && index === 0 && (count === 1 || isPlain(block)) ? { alternative: true } : {}),
    ...(open.repeat ? { repeat: open.repeat } : {}),
  }
  return { ...block, attrs } as Block
}

/** What a paragraph of markers at the head of a table's row says of the row; null where it is no such paragraph. */
export function rowMarkers(first: Block, meant: Meant = asWritten): Partial<PassageAttributes> | null {
  const markers = markersOnly(first, meant)
  const opens = markers?.filter((marker) => marker.kind === 'open') ?? []
  if (!markers || !opens.length || opens.length !== markers.filter(({ kind }) => kind === 'end').length)
    return null
  return opens.reduce<Partial<PassageAttributes>>(
    (so, { condition, alternative, repeat }) => ({
      ...so,
      ...(condition !== null ? { condition } : {}),
      ...(alternative ? { alternative } : {}),
      ...(repeat ? { repeat } : {}),
    }),
    {},
  )
}
