import { Extension } from '@tiptap/core'
import { Plugin, TextSelection, type Transaction } from '@tiptap/pm/state'
import { Fragment, Slice } from '@tiptap/pm/model'
import type { EditorView } from '@tiptap/pm/view'
import { carryingSerializer } from './carried.ts'
import { putPassages, takePassages, wholePassages } from './passages.ts'

/** Puts whole passages on the clipboard, and takes them out of the text where they are cut. */
function copy(view: EditorView, event: ClipboardEvent, cut: boolean): boolean {
  const range = wholePassages(view.state.selection)
  if (!range || !event.clipboardData || (cut && !view.editable)) return false
  const { dom, text } = view.serializeForClipboard(new Slice(Fragment.from([...range.nodes]), 0, 0))
  event.preventDefault()
  event.clipboardData.clearData()
  event.clipboardData.setData('text/html', dom.innerHTML)
  event.clipboardData.setData('text/plain', text)
  if (cut) {
    const { tr } = view.state
    takePassages(tr, range)
    view.dispatch(tr.scrollIntoView().setMeta('uiEvent', 'cut'))
  }
  return true
}

const isWhole = (slice: Slice) =>
  slice.openStart === 0 && slice.openEnd === 0 && slice.content.content.some(({ isBlock }) => isBlock)

function put(view: EditorView, tr: Transaction, slice: Slice): boolean {
  if (!tr.selection.empty) tr.deleteSelection()
  if (!putPassages(tr, slice.content.content)) return false
  view.dispatch(tr.setMeta('paste', true).setMeta('uiEvent', 'paste'))
  return true
}

/** Whole passages that are cut, copied, pasted or dragged stay what they are, with what happens to them. */
export const MovingPassages = Extension.create({
  name: 'movingPassages',
  priority: 1000,
  addProseMirrorPlugins() {
    return [
      new Plugin({
        props: {
          clipboardSerializer: carryingSerializer(this.editor.schema),
          handleDOMEvents: {
            copy: (view, event) => copy(view, event, false),
            cut: (view, event) => copy(view, event, true),
          },
          handlePaste: (view, _event, slice) => isWhole(slice) && put(view, view.state.tr, slice),
          handleDrop(view, event, _slice, moved) {
            const range = moved ? wholePassages(view.state.selection) : null
            const found = range && view.posAtCoords({ left: event.clientX, top: event.clientY })
            if (!range || !found) return false
            // Dropped into itself it stays.
            if (found.pos >= range.from && found.pos <= range.to) return true
            const { tr } = view.state
            takePassages(tr, range)
            tr.setSelection(TextSelection.near(tr.doc.resolve(tr.mapping.map(found.pos))))
            return put(view, tr, new Slice(Fragment.from([...range.nodes]), 0, 0))
          },
        },
      }),
    ]
  },
})
