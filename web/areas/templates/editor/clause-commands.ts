import { Fragment } from '@tiptap/pm/model'
import type { Node, ResolvedPos } from '@tiptap/pm/model'
import { TextSelection } from '@tiptap/pm/state'
import type { Command, EditorState } from '@tiptap/pm/state'

/** Which of the parts that Tab moves in is the innermost around a position. */
export function innermost($at: ResolvedPos): 'table' | 'listItem' | 'clause' | null {
  for (let depth = $at.depth; depth > 0; depth--) {
    const { name } = $at.node(depth).type
    if (name === 'table' || name === 'listItem' || name === 'clause') return name
  }
  return null
}

/** Depth of the innermost clause around a position; 0 where there is none. */
function clauseDepth($at: ResolvedPos): number {
  for (let depth = $at.depth; depth > 0; depth--) if ($at.node(depth).type.name === 'clause') return depth
  return 0
}

const clausesAround = ($at: ResolvedPos): number =>
  Array.from({ length: $at.depth }, (_, i) => $at.node(i + 1)).filter(({ type }) => type.name === 'clause')
    .length

/** Levels that clauses number to. */
const LEVELS = 3

/** Levels of clauses inside a clause. */
const levelsInside = (clause: Node): number =>
  Math.max(0, ...bodyOf(clause).map((child) => (child.type.name === 'clause' ? 1 + levelsInside(child) : 0)))

const bodyOf = (clause: Node): Node[] => Array.from({ length: clause.childCount }, (_, i) => clause.child(i))

/** Puts the cursor at the same place of a text that was moved by a step. */
const keepCursor = (state: EditorState, moved: number) => state.selection.from + moved

/** The paragraph at the cursor becomes a clause; in a clause, the clause becomes plain paragraphs again. */
export const toggleClause: Command = (state, dispatch) => {
  const { $from } = state.selection
  const depth = clauseDepth($from)
  const { clause: type } = state.schema.nodes
  if (!type) return false
  if (depth > 0) {
    const clause = $from.node(depth)
    if (dispatch) {
      const from = $from.before(depth)
      const tr = state.tr.replaceWith(from, from + clause.nodeSize, bodyOf(clause))
      dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(keepCursor(state, -1)))))
    }
    return true
  }
  const block = $from.node(1)
  if (!block || block.type.name !== 'paragraph') return false
  if (dispatch) {
    const from = $from.before(1)
    const tr = state.tr.replaceWith(from, from + block.nodeSize, type.create(null, block))
    dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(keepCursor(state, 1)))))
  }
  return true
}

/** Enter in the first paragraph of a clause begins the next clause with what follows; in an empty last paragraph it leaves the clause one level out. */
export const splitClause: Command = (state, dispatch) => {
  const { $from, empty } = state.selection
  const depth = clauseDepth($from)
  if (!empty || depth === 0 || $from.parent.type.name !== 'paragraph' || $from.depth !== depth + 1)
    return false
  const clause = $from.node(depth)
  if ($from.parent.content.size === 0) return clause.childCount > 1 ? false : outdentClause(state, dispatch)
  if ($from.index(depth) !== 0) return false
  if (dispatch) {
    const { paragraph, clause: type } = state.schema.nodes
    const [before, after] = [$from.parent.cut(0, $from.parentOffset), $from.parent.cut($from.parentOffset)]
    // What stood below the first paragraph stays with the part that keeps the clause's opening.
    const rest = bodyOf(clause).slice(1)
    const atEnd = $from.parentOffset === $from.parent.content.size
    const first = type!.create(clause.attrs, [before, ...(atEnd ? rest : [])])
    const second = type!.create(null, [paragraph!.create(null, after.content), ...(atEnd ? [] : rest)])
    const from = $from.before(depth)
    const tr = state.tr.replaceWith(from, from + clause.nodeSize, Fragment.from([first, second]))
    dispatch(tr.setSelection(TextSelection.create(tr.doc, from + first.nodeSize + 2)).scrollIntoView())
  }
  return true
}

/** Tab: the clause becomes the last one inside the clause before it. To three levels. */
export const indentClause: Command = (state, dispatch) => {
  const { $from } = state.selection
  const depth = clauseDepth($from)
  if (depth === 0) return false
  const index = $from.index(depth - 1)
  const before = index > 0 ? $from.node(depth - 1).child(index - 1) : null
  if (before?.type.name !== 'clause' || clausesAround($from) + levelsInside($from.node(depth)) >= LEVELS)
    return true
  if (dispatch) {
    const clause = $from.node(depth)
    const from = $from.before(depth)
    const tr = state.tr.delete(from, from + clause.nodeSize).insert(from - 1, clause)
    dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(keepCursor(state, -1)))))
  }
  return true
}

/** Shift-Tab: the clause leaves the one around it and follows it; what came after it there becomes its own. */
export const outdentClause: Command = (state, dispatch) => {
  const { $from } = state.selection
  const depth = clauseDepth($from)
  if (depth === 0) return false
  const outer = depth > 1 ? $from.node(depth - 1) : null
  if (outer?.type.name !== 'clause') return toggleClause(state, dispatch)
  if (dispatch) {
    const clause = $from.node(depth)
    const index = $from.index(depth - 1)
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
