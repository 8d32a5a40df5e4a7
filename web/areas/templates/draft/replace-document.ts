import type { Editor } from '@tiptap/core'
import type { DocumentTree } from '#core/document/tree.ts'

/** Meta of a transaction that brings a text to what its draft says: not writing. */
export const EXTERNAL = 'external'

/** Brings the editor to another state of the document by replacing only what differs, so that the cursor stays put; whether it shows exactly that then. */
export function replaceDocument(editor: Editor, document: DocumentTree): boolean {
  const { state, view, schema } = editor
  const next = schema.nodeFromJSON(document)
  const from = state.doc.content.findDiffStart(next.content)
  if (from === null) return true
  let { a: to, b: nextTo } = state.doc.content.findDiffEnd(next.content)!
  // Where both ends run into each other (as in "aa" becoming "a"), they are moved apart.
  const overlap = from - Math.min(to, nextTo)
  if (overlap > 0) {
    to += overlap
    nextTo += overlap
  }
  const slice = next.slice(from, nextTo)
  const whole = () => state.tr.setMeta(EXTERNAL, true).replaceWith(0, state.doc.content.size, next.content)
  try {
    const part = state.tr.setMeta(EXTERNAL, true).replace(from, to, slice)
    // Replacing fits a slice in as well as it goes, which need not be as it was meant.
    view.dispatch(part.doc.eq(next) ? part : whole())
  } catch {
    view.dispatch(whole())
  }
  return editor.state.doc.eq(next)
}
