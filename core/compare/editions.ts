import { sameContent } from './equal.ts'
import type { TemplateContent } from '../document/template.ts'
import type { FormPage, TreePart } from '../document/tree.ts'
import { inside, isInline, isPassage, partText } from '../document/walk.ts'
import type { Field } from '../outline/field.ts'
import { compareWords, likeness, type WordChange } from './words.ts'

/** A passage that is compared as one: what carries words of its own, with the notes in its margin. */
interface Unit {
  readonly id: string
  readonly kind: string
  readonly depth: number
  readonly text: string
  readonly notes: readonly string[]
}

/** What became of one passage from one edition to another. */
export type PassageChange = {
  readonly id: string
  readonly kind: 'same' | 'changed' | 'added' | 'removed' | 'moved' | 'moved and changed'
  readonly depth: number
  /** What kind of passage it is: heading, paragraph, clause … */
  readonly part: string
  readonly words: readonly WordChange[]
  /** Conditions and repeats before and after, where they differ. */
  readonly notes: { readonly before: readonly string[]; readonly after: readonly string[] } | null
  /** Of a moved passage: where it stood, as its place counted from 1, and where it stands now. */
  readonly moved: { readonly from: number; readonly to: number } | null
}

/** A difference outside the text; null: it is not there on that side. */
export interface FactChange {
  readonly area: 'data' | 'roles' | 'sending' | 'page'
  readonly what: string
  readonly before: string | null
  readonly after: string | null
}

/** How two editions differ, passages in reading order. */
export interface Comparison {
  readonly passages: readonly PassageChange[]
  readonly facts: readonly FactChange[]
  /** Passages that are not the same. */
  readonly changes: number
}

/** Below this, two passages without the same id have too little in common to be one. */
const ALIKE = 0.6

function* units(parts: readonly TreePart[], depth: number, outer: readonly string[]): Generator<Unit> {
  for (const part of parts) {
    if (isInline(part)) continue
    const own = [...(isPassage(part) ? notesOf(part.attrs) : []), ...placeOf(part)]
    const below = inside(part)
    if (part.type === 'page') {
      yield { id: part.attrs.id, kind: 'page', depth, text: fileOf(part), notes: own }
      yield* units(below, depth + 1, [])
      continue
    }
    if (below.some((child) => !isInline(child))) {
      // A clause shows its notes with its first words.
      yield* units(below, depth + (part.type === 'clause' ? 1 : 0), [...outer, ...own])
      outer = []
      continue
    }
    const id = isPassage(part) ? part.attrs.id : ''
    yield { id, kind: part.type, depth, text: wordsOf(part), notes: [...outer, ...own] }
    outer = []
  }
}

const fileOf = ({ attrs: { file, page, turn } }: FormPage): string =>
  `Page ${page} of the file ${file.slice(0, 8)}${turn ? `, turned by ${turn}°` : ''}`

/** Where something is placed, to the point. */
const placeOf = (part: TreePart): readonly string[] => {
  if (part.type !== 'placement') return []
  const { x, y, width, height } = part.attrs
  const [left, top, wide, high] = [x, y, width, height].map(Math.round)
  return [`at ${left}, ${top} pt, ${wide} × ${high} pt`]
}

const notesOf = ({
  condition,
  alternative,
  repeat,
}: {
  readonly condition: string | null
  readonly alternative?: boolean | undefined
  readonly repeat?: string | null | undefined
}): readonly string[] => [
  ...(alternative
    ? [condition === null ? 'otherwise' : `else where ${condition}`]
    : condition === null
      ? []
      : [`only where ${condition}`]),
  ...(repeat ? [`for each of ${repeat}`] : []),
]

/** Words of a passage; phrases show their conditions, blanks and references what they are. */
function wordsOf(part: TreePart): string {
  switch (part.type) {
    case 'phrase': {
      const notes = notesOf(part.attrs)
      const words = inside(part).map(wordsOf).join('')
      return notes.length ? `[${notes.join(', ')}: ${words}]` : words
    }
    case 'mergeField':
      return `{{${part.attrs.field}${part.attrs.format ? ` | ${part.attrs.format}` : ''}}}`
    case 'blank':
      return `[${part.attrs.role}: ${part.attrs.label}${part.attrs.required ? '' : ' (optional)'}]`
    case 'reference':
      return '[reference]'
    case 'signatureBlock':
      return `[signatures of ${part.attrs.roles.join(', ')}]`
    case 'image':
      return `[picture: ${part.attrs.alt}]`
    case 'pageBreak':
      return '[page break]'
    case 'hardBreak':
      return '\n'
    case 'text':
      return part.text
    default:
      return inside(part).map(wordsOf).join('') || partText(part)
  }
}

/** Pairs of places: the same id first, then the likest of what is left. */
function pair(before: readonly Unit[], after: readonly Unit[]): ReadonlyMap<number, number> {
  const pairs = new Map<number, number>()
  const byId = new Map(after.map((unit, i) => [unit.id, i]))
  const taken = new Set<number>()
  before.forEach((unit, i) => {
    const found = unit.id ? byId.get(unit.id) : undefined
    if (found === undefined || taken.has(found)) return
    pairs.set(i, found)
    taken.add(found)
  })
  const free = after.flatMap((_, i) => (taken.has(i) ? [] : [i]))
  before.forEach((unit, i) => {
    if (pairs.has(i) || !unit.text) return
    let best = -1
    let most = ALIKE
    for (const candidate of free) {
      if (taken.has(candidate)) continue
      const like = likeness(unit.text, after[candidate]!.text)
      if (like > most) [best, most] = [candidate, like]
    }
    if (best < 0) return
    pairs.set(i, best)
    taken.add(best)
  })
  return pairs
}

/** Places of the longest rising subsequence: what kept its order; the rest was moved. */
function longestRising(values: readonly number[]): ReadonlySet<number> {
  const tails: number[] = []
  const previous = new Array<number>(values.length).fill(-1)
  values.forEach((value, i) => {
    let [low, high] = [0, tails.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (values[tails[middle]!]! < value) low = middle + 1
      else high = middle
    }
    previous[i] = low > 0 ? tails[low - 1]! : -1
    tails[low] = i
  })
  const kept = new Set<number>()
  for (let at = tails.at(-1) ?? -1; at >= 0; at = previous[at]!) kept.add(at)
  return kept
}

/** What changed between two states of a template: word by word, moved passages told from new ones, and the rest as facts. */
export function compareEditions(before: TemplateContent, after: TemplateContent): Comparison {
  const [left, right] = [
    [...units(before.document.content, 0, [])],
    [...units(after.document.content, 0, [])],
  ]
  const pairs = pair(left, right)
  const order = [...pairs].sort(([a], [b]) => a - b)
  const rising = longestRising(order.map(([, to]) => to))
  const moved = new Set(order.filter((_, i) => !rising.has(i)).map(([, to]) => to))
  const from = new Map([...pairs].map(([a, b]) => [b, a]))
  const passages: PassageChange[] = []
  let next = 0
  const removedUpTo = (end: number) => {
    for (; next < end; next++) {
      const unit = left[next]!
      if (!pairs.has(next)) passages.push(alone(unit, 'removed'))
    }
  }
  right.forEach((unit, i) => {
    const was = from.get(i)
    if (was === undefined) return void passages.push(alone(unit, 'added'))
    if (!moved.has(i)) removedUpTo(was)
    passages.push(both(left[was]!, unit, moved.has(i) ? { from: was + 1, to: i + 1 } : null))
  })
  removedUpTo(left.length)
  return {
    passages,
    facts: compareFacts(before, after),
    changes: passages.filter(({ kind }) => kind !== 'same').length,
  }
}

const alone = (unit: Unit, kind: 'added' | 'removed'): PassageChange => ({
  id: unit.id,
  kind,
  depth: unit.depth,
  part: unit.kind,
  words: unit.text ? [{ kind, text: unit.text }] : [],
  notes: unit.notes.length
    ? { before: kind === 'removed' ? unit.notes : [], after: kind === 'added' ? unit.notes : [] }
    : null,
  moved: null,
})

function both(before: Unit, after: Unit, moved: PassageChange['moved']): PassageChange {
  const sameNotes = before.notes.join('\n') === after.notes.join('\n')
  const changed = before.text !== after.text || !sameNotes || before.kind !== after.kind
  return {
    id: after.id,
    kind: moved ? (changed ? 'moved and changed' : 'moved') : changed ? 'changed' : 'same',
    depth: after.depth,
    part: after.kind,
    words: compareWords(before.text, after.text),
    notes: sameNotes ? null : { before: before.notes, after: after.notes },
    moved,
  }
}

const tellField = (field: Field): string =>
  [
    field.type + (field.currency ? ` ${field.currency}` : ''),
    field.required ? 'required' : 'may be empty',
    field.computed && `= ${field.computed}`,
    field.default && `default ${field.default}`,
    field.choices?.length && field.choices.join(', '),
    field.format && `shown as ${field.format}`,
    field.items?.length && `items: ${field.items.map(({ name, type }) => `${name} (${type})`).join(', ')}`,
  ]
    .filter(Boolean)
    .join('; ')

function compareLists<T>(
  area: FactChange['area'],
  before: readonly T[],
  after: readonly T[],
  key: (item: T) => string,
  tell: (item: T) => string,
): readonly FactChange[] {
  const [left, right] = [
    new Map(before.map((item) => [key(item), item])),
    new Map(after.map((item) => [key(item), item])),
  ]
  return [...new Set([...left.keys(), ...right.keys()])].flatMap((name): FactChange[] => {
    const [was, is] = [left.get(name), right.get(name)]
    const [a, b] = [was ? tell(was) : null, is ? tell(is) : null]
    const differs = a !== b || (was && is && !sameContent(was, is))
    return differs ? [{ area, what: name, before: a, after: b }] : []
  })
}

function compareFacts(before: TemplateContent, after: TemplateContent): readonly FactChange[] {
  const entries = (content: TemplateContent): readonly (readonly [string, string])[] => [
    ['title', content.title],
    ['language', content.language],
    ['look', content.look ?? ''],
    ['paper', content.page?.paper ?? ''],
    ['header', content.page?.header ?? ''],
    ['footer', content.page?.footer ?? ''],
    ['initials on every page', content.initialsOnEveryPage.join(', ')],
  ]
  return [
    ...compareLists('data', before.outline, after.outline, ({ name }) => name, tellField),
    ...compareLists(
      'roles',
      before.roles,
      after.roles,
      ({ label }) => label,
      ({ order, fill, condition, optional }) =>
        [
          `number ${order}`,
          fill.rule,
          fill.rule === 'standing person' && fill.name,
          condition && `only where ${condition}`,
          optional && 'optional',
        ]
          .filter(Boolean)
          .join(', '),
    ),
    ...compareLists(
      'sending',
      Object.entries(before.sending).filter(([, value]) => value !== undefined),
      Object.entries(after.sending).filter(([, value]) => value !== undefined),
      ([name]) => name,
      ([, value]) => String(value),
    ),
    ...compareLists(
      'page',
      entries(before),
      entries(after),
      ([name]) => name,
      ([, value]) => value,
    ),
  ]
}
