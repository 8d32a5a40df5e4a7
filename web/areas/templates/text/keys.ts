import { Extension } from '@tiptap/core'
import { Plugin } from '@tiptap/pm/state'

/**
 * The browser tells of a moved cursor only at its next turn. On a busy page the next key comes first (End, then Enter),
 * and would work where the cursor was: so the editor is brought to read the selection before each key.
 */
export const KeysWhereTheCursorIs = Extension.create({
  name: 'keysWhereTheCursorIs',
  priority: 1000,
  addProseMirrorPlugins: () => [
    new Plugin({
      props: {
        handleDOMEvents: {
          keydown(view) {
            // ProseMirror has no public name for this.
            const { domObserver } = view as unknown as { domObserver: { flush(): void } }
            if (!view.composing) domObserver.flush()
            return false
          },
        },
      },
    }),
  ],
})
