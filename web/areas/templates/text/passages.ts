import { Fragment, type Node, type ResolvedPos } from '@tiptap/pm/model'
import { type EditorState, TextSelection, type Transaction } from '@tiptap/pm/state'

// What happens to a passage (its condition, its place in a chain of alternatives, its repeat) goes along wherever it is
// moved. Where that cannot be, nothing is moved, and it is said why.

/** Levels that clauses number to. */
export const LEVELS = 3

export type Refuse = (why: string) => void

/** As a command of ProseMirror, and says why where it does nothing. */
export type StructureCommand = (
  state: EditorState,
  dispatch?: (tr: Transaction) => void,
  refuse?: Refuse,
) => boolean

interface Fate {
  readonly condition: string | null
  readonly alternative: boolean
  readonly repeat: string | null
}

export const fateOf = ({ attrs }: Node): Fate => ({
  condition: (attrs['condition'] as string | null | undefined) ?? null,
  alternative: attrs['alternative'] === true,
  repeat: (attrs['repeat'] as string | null | undefined) ?? null,
})

export const hasFate = (node: Node): boolean => {
  const { condition, alternative, repeat } = fateOf(node)
  return condition !== null || alternative || repeat !== null
}

const isAlternative = (node: Node | null | undefined): boolean => node?.attrs['alternative'] === true

/** Whether an alternative to the child at an index comes after it. */
export const isFollowed = (parent: Node, index: number): boolean =>
  isAlternative(parent.maybeChild(index + 1))

/** Whether the passage at an index is one of several of which one stands. */
export const inChain = (parent: Node, index: number): boolean =>
  isAlternative(parent.child(index)) || isFollowed(parent, index)

export const bodyOf = (node: Node): readonly Node[] => node.content.content

const both = (outer: string | null, inner: string | null): string | null =>
  outer !== null && inner !== null && outer !== inner ? `(${outer}) and (${inner})` : (outer ?? inner)

const withAttributes = (node: Node, more: Readonly<Record<string, unknown>>): Node =>
  node.type.create({ ...node.attrs, ...more }, node.content, node.marks)

/**
 * The blocks inside a passage, each with what happens to the passage; null where that would be something else for them
 * one by one. `followed`: an alternative to the passage comes after it.
 */
export function unwrapped(passage: Node, followed: boolean): readonly Node[] | null {
  const { condition, alternative, repeat } = fateOf(passage)
  const blocks = bodyOf(passage)
  if (!hasFate(passage) && !followed) return blocks
  const [only] = blocks
  if (blocks.length === 1 && only) {
    const own = fateOf(only)
    if ((own.repeat !== null && repeat !== null) || own.alternative) return null
    return [
      withAttributes(only, {
        condition: both(condition, own.condition),
        alternative,
        repeat: repeat ?? own.repeat,
        keep: only.attrs['keep'] === true || passage.attrs['keep'] === true,
      }),
    ]
  }
  if (alternative || repeat !== null || followed) return null
  return blocks.map((block) => withAttributes(block, { condition: both(condition, fateOf(block).condition) }))
}

/** Levels of clauses in some content, its own included. */
export const levelsIn = (nodes: readonly Node[]): number =>
  Math.max(0, ...nodes.map((node) => (node.type.name === 'clause' ? 1 : 0) + levelsIn(bodyOf(node))))

/** How many clauses are around what a position's ancestor of a depth contains. */
export const clausesTo = ($at: ResolvedPos, depth: number): number =>
  Array.from({ length: depth }, (_, i) => $at.node(i + 1)).filter(({ type }) => type.name === 'clause').length

/** Where the node with an id stands; null where there is none. */
export function positionOf(doc: Node, id: string): number | null {
  let found: number | null = null
  doc.descendants((node, position) => {
    if (found === null && node.attrs['id'] === id) found = position
    return found === null
  })
  return found
}

/** Depth of the innermost clause around a position; 0 where there is none. */
export function clauseDepth($at: ResolvedPos): number {
  for (let depth = $at.depth; depth > 0; depth--) if ($at.node(depth).type.name === 'clause') return depth
  return 0
}

/** Which of the parts that Tab moves in is the innermost around a position. */
export function innermost($at: ResolvedPos): 'table' | 'listItem' | 'clause' | null {
  for (let depth = $at.depth; depth > 0; depth--) {
    const { name } = $at.node(depth).type
    if (name === 'table' || name === 'listItem' || name === 'clause') return name
  }
  return null
}

/** Whole passages beside each other, as a range of positions. */
export interface PassageRange {
  readonly from: number
  readonly to: number
  readonly nodes: readonly Node[]
}

const isPassageNode = ({ type }: Node) => type.isBlock && type.spec.attrs?.['condition'] !== undefined

/**
 * The whole passages that a selection of text goes over from the first letter to the last; null where it cuts one
 * apart, or is words of a line that nothing happens to.
 */
export function wholePassages({ $from, $to, empty }: EditorState['selection']): PassageRange | null {
  const range = empty ? null : $from.blockRange($to)
  if (!range) return null
  const starts = $from.parentOffset === 0
  const ends = $to.parentOffset === $to.parent.content.size
  if (!starts || !ends) return null
  for (let depth = range.depth + 1; depth < $from.depth; depth++) if ($from.index(depth) !== 0) return null
  for (let depth = range.depth + 1; depth < $to.depth; depth++)
    if ($to.index(depth) !== $to.node(depth).childCount - 1) return null
  let { depth } = range
  let [first, last] = [range.startIndex, range.endIndex]
  // All that is in a clause or a list is the clause or the list.
  while (
    depth > 0 &&
    first === 0 &&
    last === $from.node(depth).childCount &&
    isPassageNode($from.node(depth))
  ) {
    depth--
    first = $from.index(depth)
    last = first + 1
  }
  const parent = $from.node(depth)
  // A clause without its first line is none.
  if (first === 0 && parent.type.name === 'clause') return null
  const nodes = bodyOf(parent).slice(first, last)
  if (!nodes.every(isPassageNode) || ['listItem', 'tableRow'].includes(nodes[0]!.type.name)) return null
  const words = nodes.length === 1 && $from.sameParent($to)
  const chained =
    first > 0 || last < parent.childCount ? nodes.some((_, i) => inChain(parent, first + i)) : false
  if (words && !nodes.some(hasFate) && !chained) return null
  const from = $from.posAtIndex(first, depth)
  return { from, to: from + nodes.reduce((sum, { nodeSize }) => sum + nodeSize, 0), nodes }
}

/** Behind the whole chain of alternatives that goes on at a place between blocks: in between it would be broken. */
function behindChain(doc: Node, position: number): number {
  const $at = doc.resolve(position)
  let at = position
  for (let i = $at.index(); isAlternative($at.parent.maybeChild(i)); i++) at += $at.parent.child(i).nodeSize
  return at
}

/**
 * Puts whole passages at the cursor of a transaction: in place of an empty paragraph or clause, before the passage it
 * stands at the start of, else behind it. False inside tables and lists, whose own rules hold.
 */
export function putPassages(tr: Transaction, nodes: readonly Node[]): boolean {
  const { $from } = tr.selection
  if ($from.depth === 0 || ['table', 'listItem'].includes(innermost($from) ?? '')) return false
  const withClauses = levelsIn(nodes) > 0
  const inner = clauseDepth($from)
  // Clauses follow the clause whose first line the cursor is in; all else goes into it.
  let depth = inner === 0 ? 1 : withClauses && $from.index(inner) === 0 ? inner : inner + 1
  // As deep as the levels allow.
  while (depth > 1 && clausesTo($from, depth - 1) + levelsIn(nodes) > LEVELS) depth--
  const here = $from.node(depth)
  const parent = $from.node(depth - 1)
  const index = $from.index(depth - 1)
  const content = Fragment.from(nodes as Node[])
  const start = $from.before(depth)
  const line = here.isTextblock ? here : here.childCount === 1 ? here.child(0) : null
  const empty = line !== null && line.isTextblock && line.content.size === 0
  let at: number
  if (empty && !hasFate(here) && parent.canReplace(index, index + 1, content) && !isFollowed(parent, index)) {
    tr.replaceWith(start, start + here.nodeSize, content)
    at = start
  } else {
    const atStart = $from.pos === $from.start(depth) + ($from.depth - depth) && !empty
    at =
      atStart && !isAlternative(here) && parent.canReplace(index, index, content)
        ? start
        : behindChain(tr.doc, start + here.nodeSize)
    tr.insert(at, content)
  }
  const end = at + content.size
  tr.setSelection(TextSelection.near(tr.doc.resolve(end), -1)).scrollIntoView()
  return true
}

/** Deletes whole passages; what has to stand in their place is an empty paragraph. */
export function takePassages(tr: Transaction, { from, to }: PassageRange): void {
  const $from = tr.doc.resolve(from)
  const first = $from.index()
  const last = tr.doc.resolve(to).index()
  const paragraph = tr.doc.type.schema.nodes['paragraph']!
  if ($from.parent.canReplace(first, last)) tr.delete(from, to)
  else tr.replaceWith(from, to, paragraph.create())
  tr.setSelection(TextSelection.near(tr.doc.resolve(Math.min(from, tr.doc.content.size))))
}
