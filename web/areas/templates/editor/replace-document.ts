import type { Editor } from '@tiptap/core'
import { Slice } from '@tiptap/pm/model'
import type { DocumentTree } from '#core/document/tree.ts'

/** Brings the editor to another state of the document by replacing only what differs, so that the cursor stays put. */
export function replaceDocument(editor: Editor, document: DocumentTree): void {
  const { state, view, schema } = editor
  const next = schema.nodeFromJSON(document)
  const from = state.doc.content.findDiffStart(next.content)
  if (from === null) return
  let { a: to, b: nextTo } = state.doc.content.findDiffEnd(next.content)!
  // Where both ends run into each other (as in "aa" becoming "a"), they are moved apart.
  const overlap = from - Math.min(to, nextTo)
  if (overlap > 0) {
    to += overlap
    nextTo += overlap
  }
  const slice = next.slice(from, nextTo)
  const tr = state.tr.setMeta('external', true)
  try {
    view.dispatch(tr.replace(from, to, new Slice(slice.content, slice.openStart, slice.openEnd)))
  } catch {
    view.dispatch(state.tr.setMeta('external', true).replaceWith(0, state.doc.content.size, next.content))
  }
}
