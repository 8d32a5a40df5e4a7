import { Fragment, type Node } from '@tiptap/pm/model'
import { type EditorState, TextSelection, type Transaction } from '@tiptap/pm/state'
import {
  bodyOf,
  clauseDepth,
  clausesTo,
  fateOf,
  hasFate,
  inChain,
  isFollowed,
  LEVELS,
  levelsIn,
  type StructureCommand,
  unwrapped,
} from './passages.ts'

const CHAIN =
  'This clause is one of several of which one stands. Take its condition away first, or move all of them together.'
const NOT_ONE_BY_ONE =
  'What happens to this clause holds for all of it, and would not for its paragraphs one by one. Take its condition or repeat away first.'

/** The cursor, or what is selected, in the same words after they were moved by so much. */
const keepCursor = ({ selection: { anchor, head } }: EditorState, tr: Transaction, moved: number) =>
  tr.setSelection(TextSelection.between(tr.doc.resolve(anchor + moved), tr.doc.resolve(head + moved)))

/** Replaces the clause at a depth by its blocks, with what happens to it on them. */
const unwrapClause =
  (depth: number): StructureCommand =>
  (state, dispatch, refuse) => {
    const { $from } = state.selection
    const clause = $from.node(depth)
    const parent = $from.node(depth - 1)
    const blocks = unwrapped(clause, isFollowed(parent, $from.index(depth - 1)))
    if (!blocks) {
      refuse?.(NOT_ONE_BY_ONE)
      return true
    }
    const from = $from.before(depth)
    if (dispatch)
      dispatch(keepCursor(state, state.tr.replaceWith(from, from + clause.nodeSize, [...blocks]), -1))
    return true
  }

/**
 * The paragraph at the cursor becomes a clause, inside a clause one of its own; the first paragraph of a clause makes the
 * clause plain paragraphs again.
 */
export const toggleClause: StructureCommand = (state, dispatch, refuse) => {
  const { $from } = state.selection
  const around = clauseDepth($from)
  const { clause: type } = state.schema.nodes
  if (!type) return false
  if (around > 0 && $from.index(around) === 0) return unwrapClause(around)(state, dispatch, refuse)
  const depth = around + 1
  const block = $from.node(depth)
  if (!block || block.type.name !== 'paragraph' || $from.depth !== depth) return around > 0
  if (clausesTo($from, around) >= LEVELS) {
    refuse?.('Clauses are numbered to three levels.')
    return true
  }
  if (dispatch) {
    const from = $from.before(depth)
    // What happens to the paragraph happens to its number too.
    const made = type.create(
      { ...block.attrs, id: null, source: null },
      block.type.create({ id: block.attrs['id'] as string }, block.content),
    )
    dispatch(keepCursor(state, state.tr.replaceWith(from, from + block.nodeSize, made), 1))
  }
  return true
}

/**
 * Enter in the first paragraph of a clause begins the next clause with what follows, under the same condition; in an
 * empty clause it leaves one level. Where one of several stands, or one for each item, it is a new paragraph of the same.
 */
export const splitClause: StructureCommand = (state, dispatch, refuse) => {
  const { $from, empty } = state.selection
  const depth = clauseDepth($from)
  if (!empty || depth === 0 || $from.parent.type.name !== 'paragraph' || $from.depth !== depth + 1)
    return false
  const clause = $from.node(depth)
  if ($from.parent.content.size === 0)
    return clause.childCount > 1 ? false : outdentClause(state, dispatch, refuse)
  if ($from.index(depth) !== 0) return false
  const { paragraph, clause: type } = state.schema.nodes
  const parent = $from.node(depth - 1)
  const atStart = $from.parentOffset === 0
  const atEnd = $from.parentOffset === $from.parent.content.size
  const { condition, alternative, repeat } = fateOf(clause)
  const followed = isFollowed(parent, $from.index(depth - 1))
  const fits = atEnd ? !followed : atStart ? !alternative : !alternative && !followed && repeat === null
  if (!fits) return splitPassage(state, dispatch, refuse)
  if (!dispatch) return true
  const from = $from.before(depth)
  if (atStart) {
    const tr = state.tr.insert(from, type!.create(null, paragraph!.create()))
    dispatch(tr.scrollIntoView())
    return true
  }
  const [before, after] = [$from.parent.cut(0, $from.parentOffset), $from.parent.cut($from.parentOffset)]
  // What stood below the first paragraph stays with the part that keeps the clause's opening.
  const rest = bodyOf(clause).slice(1)
  const first = type!.create(clause.attrs, [before, ...(atEnd ? rest : [])])
  const line = paragraph!.create({ condition: fateOf($from.parent).condition }, after.content)
  const second = atEnd
    ? type!.create(null, paragraph!.create())
    : type!.create({ condition }, [line, ...rest])
  const tr = state.tr.replaceWith(from, from + clause.nodeSize, Fragment.from([first, second]))
  dispatch(tr.setSelection(TextSelection.create(tr.doc, from + first.nodeSize + 2)).scrollIntoView())
  return true
}

/** Enter in a paragraph or heading that something happens to: both halves keep it, or it stays one with a new line. */
export const splitPassage: StructureCommand = (state, dispatch) => {
  const { $from, empty } = state.selection
  const block = $from.parent
  if (!empty || !block.isTextblock || $from.depth === 0 || block.type.spec.attrs?.['condition'] === undefined)
    return false
  const parent = $from.node($from.depth - 1)
  const { condition, alternative, repeat } = fateOf(block)
  const followed = isFollowed(parent, $from.index($from.depth - 1))
  const atStart = $from.parentOffset === 0 && block.content.size > 0
  const atEnd = $from.parentOffset === block.content.size
  const plain = state.schema.nodes['paragraph']!
  // In the first line of a clause that is one of several it may be that Enter was meant for the clause.
  const opening = parent.type.name === 'clause' && $from.index($from.depth - 1) === 0
  if (!hasFate(block) && !followed && !opening) return false
  if (!dispatch) return true
  const from = $from.before()
  if (atStart ? alternative : atEnd ? followed : alternative || followed || repeat !== null) {
    dispatch(state.tr.replaceSelectionWith(state.schema.nodes['hardBreak']!.create(), true).scrollIntoView())
    return true
  }
  if (atStart) {
    dispatch(state.tr.insert(from, plain.create()).scrollIntoView())
    return true
  }
  const second = atEnd
    ? plain.create()
    : block.type.create({ ...block.attrs, id: null, condition }, block.content.cut($from.parentOffset))
  const tr = state.tr.replaceWith($from.pos, from + block.nodeSize - 1, Fragment.empty)
  const at = tr.mapping.map(from + block.nodeSize)
  tr.insert(at, second)
  dispatch(tr.setSelection(TextSelection.create(tr.doc, at + 1)).scrollIntoView())
  return true
}

/** A further paragraph of the same clause, below the one at the cursor: where a list or a table of its own may begin too. */
export const furtherParagraph: StructureCommand = (state, dispatch) => {
  const { $from } = state.selection
  const depth = clauseDepth($from)
  if (depth === 0) return false
  if (dispatch) {
    const at = $from.after(depth + 1)
    const tr = state.tr.insert(at, state.schema.nodes['paragraph']!.create())
    dispatch(tr.setSelection(TextSelection.create(tr.doc, at + 1)).scrollIntoView())
  }
  return true
}

/** Tab: the clause becomes the last one inside the clause before it. To three levels. */
export const indentClause: StructureCommand = (state, dispatch, refuse) => {
  const { $from } = state.selection
  const depth = clauseDepth($from)
  if (depth === 0) return false
  const index = $from.index(depth - 1)
  const parent = $from.node(depth - 1)
  const before = index > 0 ? parent.child(index - 1) : null
  if (before?.type.name !== 'clause') return true
  if (clausesTo($from, depth) + levelsIn([$from.node(depth)]) > LEVELS) {
    refuse?.('Clauses are numbered to three levels.')
    return true
  }
  if (inChain(parent, index)) {
    refuse?.(CHAIN)
    return true
  }
  if (dispatch) {
    const clause = $from.node(depth)
    const from = $from.before(depth)
    const tr = state.tr.delete(from, from + clause.nodeSize).insert(from - 1, clause)
    dispatch(keepCursor(state, tr, -1))
  }
  return true
}

/**
 * Shift-Tab: the clause leaves the one around it and follows it, and what came after it there becomes its own; a clause
 * of the first level becomes plain paragraphs. The last paragraph of a clause leaves it.
 */
export const outdentClause: StructureCommand = (state, dispatch, refuse) => {
  const { $from } = state.selection
  const depth = clauseDepth($from)
  if (depth === 0) return false
  if ($from.index(depth) > 0) return liftParagraph(depth)(state, dispatch, refuse)
  const outer = depth > 1 ? $from.node(depth - 1) : null
  if (outer?.type.name !== 'clause') return unwrapClause(depth)(state, dispatch, refuse)
  const index = $from.index(depth - 1)
  const around = $from.node(depth - 2)
  if (inChain(outer, index) || isFollowed(around, $from.index(depth - 2))) {
    refuse?.(CHAIN)
    return true
  }
  if (hasFate(outer) && index < outer.childCount - 1) {
    refuse?.(
      'What follows this clause would leave the condition or repeat around it too. Move this one behind it first (Alt Shift ↓).',
    )
    return true
  }
  if (dispatch) {
    const clause = $from.node(depth)
    const body = bodyOf(outer)
    const left = outer.copy(Fragment.from(body.slice(0, index)))
    const lifted = clause.copy(clause.content.append(Fragment.from(body.slice(index + 1))))
    const from = $from.before(depth - 1)
    const offset = $from.pos - $from.before(depth)
    const tr = state.tr.replaceWith(from, from + outer.nodeSize, [left, lifted])
    dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(from + left.nodeSize + offset))))
  }
  return true
}

/** A paragraph, list or table that ends a clause comes to stand behind it. */
const liftParagraph =
  (depth: number): StructureCommand =>
  (state, dispatch, refuse) => {
    const { $from } = state.selection
    const clause = $from.node(depth)
    const index = $from.index(depth)
    const parent = $from.node(depth - 1)
    if (index < clause.childCount - 1) {
      refuse?.('Only the last paragraph of a clause leaves it: what follows would leave it too.')
      return true
    }
    if (inChain(clause, index) || isFollowed(parent, $from.index(depth - 1))) {
      refuse?.(CHAIN)
      return true
    }
    if (dispatch) {
      const block = clause.child(index)
      const from = $from.posAtIndex(index, depth)
      const tr = state.tr.delete(from, from + block.nodeSize).insert(from + 1, block)
      dispatch(keepCursor(state, tr, 1))
    }
    return true
  }

/**
 * Backspace at the start of a clause makes it the last paragraphs of the clause before it, else plain paragraphs; what
 * happens to it goes along. An empty clause just goes.
 */
export const joinClause: StructureCommand = (state, dispatch, refuse) => {
  const { $from, empty } = state.selection
  const depth = clauseDepth($from)
  if (
    !empty ||
    depth === 0 ||
    $from.depth !== depth + 1 ||
    $from.index(depth) !== 0 ||
    $from.parentOffset !== 0
  )
    return false
  const clause = $from.node(depth)
  const parent = $from.node(depth - 1)
  const index = $from.index(depth - 1)
  const before = index > 0 ? parent.child(index - 1) : null
  const from = $from.before(depth)
  const isEmpty = clause.childCount === 1 && $from.parent.content.size === 0
  if (isEmpty && before && !inChain(parent, index)) {
    if (dispatch) {
      const tr = state.tr.delete(from, from + clause.nodeSize)
      dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(from), -1)).scrollIntoView())
    }
    return true
  }
  if (before?.type.name !== 'clause') return unwrapClause(depth)(state, dispatch, refuse)
  if (inChain(parent, index)) {
    refuse?.(CHAIN)
    return true
  }
  const blocks = unwrapped(clause, false)
  if (!blocks) {
    refuse?.(NOT_ONE_BY_ONE)
    return true
  }
  if (dispatch) {
    const tr = state.tr.delete(from, from + clause.nodeSize).insert(from - 1, [...blocks])
    dispatch(keepCursor(state, tr, -2).scrollIntoView())
  }
  return true
}

/** A passage that is moved together with those it is an alternative to. */
interface Chain {
  readonly first: number
  readonly last: number
}

function chainAt(parent: Node, index: number): Chain {
  let [first, last] = [index, index]
  while (first > 0 && parent.child(first).attrs['alternative'] === true) first--
  while (isFollowed(parent, last)) last++
  return { first, last }
}

/**
 * Moves the clause at the cursor, or the paragraph where it is in none, past the one before or behind it, with all it
 * carries; alternatives move together, and past others as one.
 */
export const movePassage =
  (by: -1 | 1): StructureCommand =>
  (state, dispatch, refuse) => {
    const { $from } = state.selection
    const around = clauseDepth($from)
    const depth = around > 0 && $from.index(around) > 0 ? around + 1 : around || 1
    if ($from.depth < depth) return false
    return moveChild(state, depth, by, dispatch, refuse)
  }

function moveChild(
  state: EditorState,
  depth: number,
  by: -1 | 1,
  dispatch?: (tr: Transaction) => void,
  refuse?: (why: string) => void,
): boolean {
  const { $from } = state.selection
  const parent = $from.node(depth - 1)
  const own = chainAt(parent, $from.index(depth - 1))
  const beside = by < 0 ? own.first - 1 : own.last + 1
  const least = parent.type.name === 'clause' ? 1 : 0
  if (beside < least || beside >= parent.childCount) {
    refuse?.(by < 0 ? 'It is the first there.' : 'It is the last there.')
    return true
  }
  const other = chainAt(parent, beside)
  if (dispatch) {
    const [upper, lower] = by < 0 ? [other, own] : [own, other]
    const nodes = bodyOf(parent)
    const [above, below] = [
      nodes.slice(upper.first, upper.last + 1),
      nodes.slice(lower.first, lower.last + 1),
    ]
    const size = (all: readonly Node[]) => all.reduce((sum, { nodeSize }) => sum + nodeSize, 0)
    const from = $from.posAtIndex(upper.first, depth - 1)
    const tr = state.tr.replaceWith(from, from + size(above) + size(below), [...below, ...above])
    dispatch(keepCursor(state, tr, by < 0 ? -size(above) : size(below)).scrollIntoView())
  }
  return true
}

/** The clause at a position comes to stand before or behind another block, as by dragging. */
export const dropClause =
  (clause: number, target: number, side: 'before' | 'behind'): StructureCommand =>
  (state, dispatch, refuse) => {
    const $clause = state.doc.resolve(clause)
    const $target = state.doc.resolve(target)
    const moved = chainAt($clause.parent, $clause.index())
    const stay = chainAt($target.parent, $target.index())
    const nodes = bodyOf($clause.parent).slice(moved.first, moved.last + 1)
    const from = $clause.posAtIndex(moved.first)
    const to = $clause.posAtIndex(moved.last + 1)
    if (target >= from && target < to) return true
    if (clausesTo($target, $target.depth) + levelsIn(nodes) > LEVELS) {
      refuse?.('Clauses are numbered to three levels.')
      return true
    }
    const at = side === 'before' ? $target.posAtIndex(stay.first) : $target.posAtIndex(stay.last + 1)
    if (dispatch) {
      const tr = state.tr.delete(from, to)
      dispatch(tr.insert(tr.mapping.map(at), [...nodes]).scrollIntoView())
    }
    return true
  }
