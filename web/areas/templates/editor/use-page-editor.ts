import { Extension, InputRule } from '@tiptap/core'
import { Bold as BoldMark } from '@tiptap/extension-bold'
import { Document } from '@tiptap/extension-document'
import { HardBreak } from '@tiptap/extension-hard-break'
import { Italic as ItalicMark } from '@tiptap/extension-italic'
import { Text } from '@tiptap/extension-text'
import { Underline as UnderlineMark } from '@tiptap/extension-underline'
import { Gapcursor } from '@tiptap/extensions'
import { type Editor, type JSONContent, useEditor } from '@tiptap/react'
import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { fieldsByName } from '#core/outline/field.ts'
import { call, problemText } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { DraftText } from '#web/areas/templates/draft/draft-text.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { Annotations, annotationsKey } from '#web/areas/templates/text/annotations.ts'
import {
  furtherParagraph,
  indentClause,
  movePassage,
  outdentClause,
  toggleClause,
} from '#web/areas/templates/text/clause-commands.ts'
import { ClauseKeys } from '#web/areas/templates/text/clause-keys.ts'
import { InsertMenus, type InsertSources, type MenuState } from '#web/areas/templates/text/insert-menu.ts'
import { fieldInserts, slashInserts } from '#web/areas/templates/text/inserts.ts'
import { KeysWhereTheCursorIs } from '#web/areas/templates/text/keys.ts'
import { MovingPassages } from '#web/areas/templates/text/moving.ts'
import { Ids, NODES } from '#web/areas/templates/text/nodes.ts'
import type { StructureCommand } from '#web/areas/templates/text/passages.ts'
import { cleanPasted, PASTE_LIMIT } from '#web/areas/templates/text/paste.ts'
import { useActs } from '#web/frame/commands.ts'

/** What is asked about the text, in a window of its own; null: nothing. */
export type Asking = 'condition' | 'phrase' | 'repeat' | 'reference' | 'library' | 'keep' | null

/** `{{name}}` typed to its end becomes a merge field, whatever the menu offers. */
const FieldsAsTyped = Extension.create({
  name: 'fieldsAsTyped',
  addInputRules: () => [
    new InputRule({
      find: /\{\{\s*([\p{L}_][\p{L}\p{N}_.]*)\s*\}\}$/u,
      handler: ({ state, range, match }) =>
        void state.tr.replaceWith(
          range.from,
          range.to,
          state.schema.nodes['mergeField']!.create({ field: match[1], format: null }),
        ),
    }),
  ],
})

/** What the menus of the text offer, and what of the template it knows; as of now, whenever the editor asks. */
function useSources(
  ask: (what: Asking) => void,
  pickPicture: () => void,
  show: (menu: MenuState | null) => void,
) {
  const { content, change, all, proof, valued = false } = useStudio()
  const say = useNotice()
  const known = useMemo(
    () => ({
      fields: new Set(fieldsByName(all).keys()),
      roles: new Map(content.roles.map(({ key, label }) => [key, label || key])),
      values: valued ? (proof?.values ?? null) : null,
    }),
    [all, content.roles, valued, proof?.values],
  )
  const newField = useCallback(
    (name: string) =>
      change((before) =>
        before.outline.some((field) => field.name === name)
          ? before
          : {
              ...before,
              outline: [...before.outline, { name, label: labelOf(name), type: 'text', required: true }],
            },
      ),
    [change],
  )
  const sources: InsertSources = {
    inserts: () =>
      slashInserts(content, all, {
        pickPicture,
        pickReference: () => ask('reference'),
        pickClause: () => ask('library'),
        keepClause: () => ask('keep'),
        condition: () => ask('condition'),
        phrase: () => ask('phrase'),
        repeat: () => ask('repeat'),
        newField,
      }),
    fields: (query) => fieldInserts(all, query, newField),
    show,
  }
  const now = useRef({ known, sources, say })
  useEffect(() => {
    now.current = { known, sources, say }
  })
  return { now, known }
}

/** The editor of a draft's text: a view of the draft. */
export function usePageEditor(
  draft: TemplateDraft,
  files: RefObject<HTMLInputElement | null>,
  ask: (what: Asking) => void,
  onEditor: (editor: Editor | null) => void,
) {
  const { editable } = useStudio()
  const say = useNotice()
  const [menu, setMenu] = useState<MenuState | null>(null)
  const { now, known } = useSources(ask, () => files.current?.click(), setMenu)
  const upload = useRef<(file: File) => Promise<void>>(async () => undefined)
  const editor = useEditor({
    extensions: [
      Document,
      Text,
      BoldMark,
      ItalicMark,
      UnderlineMark,
      HardBreak,
      Gapcursor,
      ClauseKeys((why) => now.current.say(why)),
      MovingPassages,
      FieldsAsTyped,
      Ids,
      ...NODES,
      Annotations(() => now.current.known),
      InsertMenus(() => now.current.sources),
      KeysWhereTheCursorIs,
      DraftText(draft),
    ],
    content: draft.content.document as unknown as JSONContent,
    editable,
    editorProps: {
      attributes: {
        class: 'page-text',
        'aria-label': 'Template text',
        role: 'textbox',
        'aria-multiline': 'true',
      },
      transformPastedHTML: (html) => {
        if (html.length > PASTE_LIMIT)
          now.current.say(
            'What was pasted is larger than two million characters of markup; only plain text of that size can be taken in at once.',
            'fault',
          )
        return cleanPasted(html)
      },
      handlePaste: (_view, event) => takePicture(event.clipboardData?.files),
      handleDrop: (_view, event) => takePicture(event.dataTransfer?.files),
    },
  })
  function takePicture(found: FileList | undefined | null): boolean {
    const file = [...(found ?? [])].find(({ type }) => type.startsWith('image/'))
    if (!file) return false
    void upload.current(file)
    return true
  }
  useEffect(() => {
    upload.current = async (file) => {
      try {
        const picture = await call('uploadPicture', { body: file })
        editor
          .chain()
          .focus()
          .insertContent({
            type: 'image',
            attrs: {
              file: picture.file,
              alt: file.name.replace(/\.\w+$/, ''),
              width: Math.min(100, Math.max(10, Math.round(picture.width / 6.5))),
            },
          })
          .run()
      } catch (error) {
        say(problemText(error), 'fault')
      }
    }
  })
  useEffect(() => {
    onEditor(editor)
    return () => onEditor(null)
  }, [editor, onEditor])
  useEffect(() => {
    editor.view.dispatch(editor.state.tr.setMeta(annotationsKey, true).setMeta('addToHistory', false))
  }, [editor, known])
  return { editor, menu, upload: (file: File) => void upload.current(file) }
}

/** What can be done to the passage at the cursor, under Ctrl K. */
export function usePassageActs(editor: Editor, ask: (what: Asking) => void): void {
  const { editable } = useStudio()
  const say = useNotice()
  const acts = useMemo(() => {
    const command = (label: string, act: StructureCommand) => ({
      label,
      hint: 'At the cursor',
      run: () => {
        editor.commands.focus()
        act(editor.state, editor.view.dispatch, (why) => say(why))
      },
    })
    const asking = (label: string, what: Asking) => ({
      label,
      hint: 'At the cursor',
      run: () => ask(what),
    })
    return editable
      ? [
          command('Move the clause up', movePassage(-1)),
          command('Move the clause down', movePassage(1)),
          command('One level in', indentClause),
          command('One level out', outdentClause),
          command('Clause on or off', toggleClause),
          command('A further paragraph of the clause', furtherParagraph),
          asking('Condition on this passage', 'condition'),
          asking('Repeat this passage with a list', 'repeat'),
          asking('Reference to a clause', 'reference'),
          asking('Clause from the library', 'library'),
          asking('Save this clause to the library', 'keep'),
        ]
      : []
  }, [editor, editable, say, ask])
  useActs(acts)
}

const labelOf = (name: string): string => {
  const words = name.split('.').at(-1)!.replaceAll('_', ' ')
  return words.slice(0, 1).toUpperCase() + words.slice(1)
}
