import { type Editor, Extension } from '@tiptap/core'
import {
  furtherParagraph,
  indentClause,
  joinClause,
  movePassage,
  outdentClause,
  splitClause,
  splitPassage,
  toggleClause,
} from './clause-commands.ts'
import {
  fateOf,
  hasFate,
  inChain,
  innermost,
  isFollowed,
  type Refuse,
  type StructureCommand,
} from './passages.ts'

/** The item of a list around the cursor, and where. */
function itemAt({ state }: Editor) {
  const { $from } = state.selection
  for (let depth = $from.depth; depth > 0; depth--)
    if ($from.node(depth).type.name === 'listItem')
      return { depth, item: $from.node(depth), list: $from.node(depth - 1), index: $from.index(depth - 1) }
  return null
}

/** Enter in an item that something happens to: behind it a plain item, in it a new line. */
function splitItem(editor: Editor): boolean {
  const found = itemAt(editor)
  const { $from, empty } = editor.state.selection
  if (!found || !empty || innermost($from) !== 'listItem') return false
  const followed = isFollowed(found.list, found.index)
  const atEnd = $from.pos === $from.end(found.depth) - ($from.depth - found.depth)
  if ((!hasFate(found.item) && !followed) || (atEnd && !followed) || found.item.textContent === '')
    return false
  return editor.commands.setHardBreak()
}

/** An item leaves its list with what happens to it on its paragraph. */
function liftItem(editor: Editor, refuse: Refuse): void {
  const found = itemAt(editor)
  const { $from } = editor.state.selection
  const leavesLists = found && found.depth > 1 && $from.node(found.depth - 2).type.name !== 'listItem'
  if (found && leavesLists && inChain(found.list, found.index))
    return refuse('This item is one of several of which one stands. Take its condition away first.')
  if (found && leavesLists && hasFate(found.item)) {
    if (found.item.childCount > 1)
      return refuse('What happens to this item holds for all of it. Take its condition or repeat away first.')
    const at = $from.start(found.depth)
    const { tr } = editor.state
    for (const [name, value] of Object.entries(fateOf(found.item))) tr.setNodeAttribute(at, name, value)
    editor.view.dispatch(tr)
  }
  editor.commands.liftListItem('listItem')
}

/** Keys that make, split, join, move and level clauses; `refuse` says why one did nothing. */
export const ClauseKeys = (refuse: Refuse) =>
  Extension.create({
    name: 'clauseKeys',
    priority: 1000,
    addKeyboardShortcuts() {
      const { editor } = this
      const run = (command: StructureCommand) => () => command(editor.state, editor.view.dispatch, refuse)
      // The key speaks of the innermost: the cell of a table, the item of a list, the clause.
      const level = (list: () => void, clause: StructureCommand) => () => {
        const inner = innermost(editor.state.selection.$from)
        if (inner === 'table') return false
        if (inner !== 'listItem') return run(clause)()
        list()
        return true
      }
      return {
        Enter: () => run(splitClause)() || splitItem(editor) || run(splitPassage)(),
        Backspace: run(joinClause),
        Tab: level(() => editor.commands.sinkListItem('listItem'), indentClause),
        'Shift-Tab': level(() => liftItem(editor, refuse), outdentClause),
        'Mod-Enter': run(furtherParagraph),
        'Mod-Alt-c': run(toggleClause),
        'Alt-Shift-ArrowUp': run(movePassage(-1)),
        'Alt-Shift-ArrowDown': run(movePassage(1)),
      }
    },
  })
