import { type Editor, Extension } from '@tiptap/core'
import type { DocumentTree } from '#core/document/tree.ts'
import { isText } from '#core/document/walk.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { EXTERNAL, replaceDocument } from './replace-document.ts'

const documentOf = (editor: Editor) => editor.getJSON() as unknown as DocumentTree

/** Makes the editor's text a view of a draft: what is written goes to its keeper, what changes there is shown here. */
export const DraftText = (keeper: TemplateDraft) =>
  Extension.create<object, { stop: () => void }>({
    name: 'draftText',
    addStorage: () => ({ stop: () => undefined }),
    onCreate() {
      const { editor } = this
      const show = (document: DocumentTree) => {
        // Where the text's own rules make more of it than it says (ids that are missing), that is the document.
        if (!replaceDocument(editor, document)) keeper.adopt(documentOf(editor))
      }
      const { document: first } = keeper.content
      if (isText(first)) show(first)
      this.storage.stop = keeper.onDocument(show)
    },
    onUpdate({ transaction }) {
      if (!transaction.getMeta(EXTERNAL)) keeper.write(documentOf(this.editor))
    },
    onDestroy() {
      this.storage.stop()
    },
    addKeyboardShortcuts: () => ({
      'Mod-z': () => (keeper.undo(), true),
      'Mod-Shift-z': () => (keeper.redo(), true),
      'Mod-y': () => (keeper.redo(), true),
    }),
  })
