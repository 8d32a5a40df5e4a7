import { Extension, InputRule } from '@tiptap/core'
import { Bold as BoldMark } from '@tiptap/extension-bold'
import { Document } from '@tiptap/extension-document'
import { HardBreak } from '@tiptap/extension-hard-break'
import { Italic as ItalicMark } from '@tiptap/extension-italic'
import { Text } from '@tiptap/extension-text'
import { Underline as UnderlineMark } from '@tiptap/extension-underline'
import { Gapcursor } from '@tiptap/extensions'
import { type Editor, EditorContent, type JSONContent, useEditor } from '@tiptap/react'
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { fieldsByName } from '#core/outline/field.ts'
import { call, problemText } from '#web/api/client.ts'
import { useActs } from '#web/frame/commands.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { AtPassage } from './at-passage.tsx'
import { ConditionForm } from '../condition/condition-form.tsx'
import { KeepForm, LibraryPicker } from '../panels/library-picker.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { DraftText } from '../draft/draft-text.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { Annotations, annotationsKey } from '#web/areas/templates/text/annotations.ts'
import {
  furtherParagraph,
  indentClause,
  movePassage,
  outdentClause,
  toggleClause,
} from '#web/areas/templates/text/clause-commands.ts'
import { ClauseKeys } from '#web/areas/templates/text/clause-keys.ts'
import type { StructureCommand } from '#web/areas/templates/text/passages.ts'
import { ClauseOutline } from './clause-outline.tsx'
import { InsertList } from './insert-list.tsx'
import { InsertMenus, type InsertSources, type MenuState } from '#web/areas/templates/text/insert-menu.ts'
import {
  clauseAt,
  fieldInserts,
  passageAt,
  repeatAt,
  setPassage,
  slashInserts,
} from '#web/areas/templates/text/inserts.ts'
import { MarginNotes } from './margin-notes.tsx'
import { MovingPassages } from '#web/areas/templates/text/moving.ts'
import { RepeatForm } from './note-form.tsx'
import { Ids, NODES } from '#web/areas/templates/text/nodes.ts'
import { cleanPasted, PASTE_LIMIT } from '#web/areas/templates/text/paste.ts'
import { ReferencePicker } from './reference-picker.tsx'
import { KeysWhereTheCursorIs } from '#web/areas/templates/text/keys.ts'
import { Tools } from './tools.tsx'

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

type Asking = 'condition' | 'phrase' | 'repeat' | 'reference' | 'library' | 'keep' | null

interface Props {
  readonly draft: TemplateDraft
  readonly onEditor: (editor: Editor | null) => void
}

/** The page of text with its margin and the outline of its clauses: a view of a draft. */
export const PageEditor = memo(function PageEditor({ draft, onEditor }: Props) {
  const studio = useStudio()
  const { content, editable, change, all, proof, valued = false } = studio
  const say = useNotice()
  const page = useRef<HTMLDivElement>(null)
  const files = useRef<HTMLInputElement>(null)
  const [menu, setMenu] = useState<MenuState | null>(null)
  const [asking, setAsking] = useState<Asking>(null)
  const [shown, setShown] = useState(() => ({
    notes: localStorage.getItem('brevan.notes') !== 'no',
    outline: localStorage.getItem('brevan.outline') === 'yes',
  }))
  const known = useMemo(
    () => ({
      fields: new Set(fieldsByName(all).keys()),
      roles: new Map(content.roles.map(({ key, label }) => [key, label || key])),
      values: valued ? (proof?.values ?? null) : null,
    }),
    [all, content.roles, valued, proof?.values],
  )
  const { steps } = useDraft(draft)
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
        pickPicture: () => files.current?.click(),
        pickReference: () => setAsking('reference'),
        pickClause: () => setAsking('library'),
        keepClause: () => setAsking('keep'),
        condition: () => setAsking('condition'),
        phrase: () => setAsking('phrase'),
        repeat: () => setAsking('repeat'),
        newField,
      }),
    fields: (query) => fieldInserts(all, query, newField),
    show: setMenu,
  }
  const now = useRef({ known, sources, say })
  useEffect(() => {
    now.current = { known, sources, say }
  })
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
  useEffect(() => {
    localStorage.setItem('brevan.notes', shown.notes ? 'yes' : 'no')
    localStorage.setItem('brevan.outline', shown.outline ? 'yes' : 'no')
  }, [shown])
  const acts = useMemo(() => {
    const command = (label: string, act: StructureCommand) => ({
      label,
      hint: 'At the cursor',
      run: () => {
        editor.commands.focus()
        act(editor.state, editor.view.dispatch, (why) => say(why))
      },
    })
    const ask = (label: string, what: Asking) => ({
      label,
      hint: 'At the cursor',
      run: () => setAsking(what),
    })
    return editable
      ? [
          command('Move the clause up', movePassage(-1)),
          command('Move the clause down', movePassage(1)),
          command('One level in', indentClause),
          command('One level out', outdentClause),
          command('Clause, or plain text again', toggleClause),
          command('A further paragraph of the clause', furtherParagraph),
          ask('Condition on this passage', 'condition'),
          ask('Repeat this passage with a list', 'repeat'),
          ask('Reference to a clause', 'reference'),
          ask('Clause from the library', 'library'),
          ask('Keep this clause in the library', 'keep'),
        ]
      : []
  }, [editor, editable, say])
  useActs(acts)
  const passage = asking === 'condition' || asking === 'repeat' ? passageAt(editor) : null
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Tools
        editor={editor}
        steps={steps}
        undo={draft.undo}
        redo={draft.redo}
        shown={shown}
        onShow={setShown}
        ask={setAsking}
        onPicture={() => files.current?.click()}
      />
      <div className="flex min-h-0 flex-1">
        {shown.outline && <ClauseOutline editor={editor} refuse={say} />}
        <div className="min-h-0 min-w-0 flex-1 overflow-auto" data-scroller="text">
          <div
            ref={page}
            className={`relative mx-auto my-4 max-w-3xl min-w-md pr-4 ${shown.notes ? 'pl-40' : 'pl-4'}`}
          >
            {shown.notes && <MarginNotes editor={editor} page={page} />}
            <div className="border border-hair bg-sheet px-8 py-8">
              <EditorContent editor={editor} />
            </div>
          </div>
        </div>
      </div>
      <input
        ref={files}
        type="file"
        hidden
        aria-label="Picture file"
        accept="image/png,image/jpeg,image/svg+xml"
        onChange={(event) => {
          const file = event.target.files?.[0]
          event.target.value = ''
          if (file) void upload.current(file)
        }}
      />
      {menu && editable && <InsertList menu={menu} />}
      <AtPassage
        label="Condition"
        editor={editor}
        position={passage?.position ?? null}
        open={asking === 'condition'}
        onClose={() => setAsking(null)}
      >
        <ConditionForm
          initial={(passage?.attrs['condition'] as string | null | undefined) ?? ''}
          repeat={repeatAt(editor)}
          title="This passage stands only where"
          clearLabel="Always"
          onCancel={() => setAsking(null)}
          onSet={(condition) => {
            setPassage(editor, { condition, ...(condition === null ? { alternative: false } : {}) })
            setAsking(null)
          }}
        />
      </AtPassage>
      <AtPassage
        label="Words on a condition"
        editor={editor}
        position={null}
        open={asking === 'phrase'}
        onClose={() => setAsking(null)}
      >
        <ConditionForm
          initial={String(editor.getAttributes('phrase')['condition'] ?? '')}
          repeat={repeatAt(editor)}
          title="These words stand only where"
          clearLabel="Always"
          onCancel={() => setAsking(null)}
          onSet={(condition) => {
            setPhrase(editor, condition)
            setAsking(null)
          }}
        />
      </AtPassage>
      <AtPassage
        label="Repeat"
        editor={editor}
        position={passage?.position ?? null}
        open={asking === 'repeat'}
        onClose={() => setAsking(null)}
      >
        <RepeatForm
          repeat={(passage?.attrs['repeat'] as string | null | undefined) ?? null}
          onSet={(repeat) => {
            setPassage(editor, { repeat })
            setAsking(null)
          }}
        />
      </AtPassage>
      <Dialog title="Reference to a clause" open={asking === 'reference'} onClose={() => setAsking(null)}>
        <ReferencePicker editor={editor} onDone={() => setAsking(null)} />
      </Dialog>
      <Dialog title="Clause from the library" open={asking === 'library'} onClose={() => setAsking(null)}>
        <LibraryPicker
          onPick={(clause) => {
            setAsking(null)
            editor
              .chain()
              .focus()
              .insertContent(clause as unknown as JSONContent)
              .run()
          }}
        />
      </Dialog>
      <Dialog title="Keep the clause in the library" open={asking === 'keep'} onClose={() => setAsking(null)}>
        <KeepForm editor={editor} position={clauseAt(editor) ?? 0} onDone={() => setAsking(null)} />
      </Dialog>
    </div>
  )
})

const labelOf = (name: string): string => {
  const words = name.split('.').at(-1)!.replaceAll('_', ' ')
  return words.slice(0, 1).toUpperCase() + words.slice(1)
}

/** Puts the selected words on a condition, changes that of the phrase around the cursor, or (null) makes them plain again. */
function setPhrase(editor: Editor, condition: string | null): void {
  const { state, view } = editor
  const { $from, from, to, empty } = state.selection
  for (let depth = $from.depth; depth > 0; depth--) {
    const node = $from.node(depth)
    if (node.type.name !== 'phrase') continue
    const at = $from.before(depth)
    view.dispatch(
      condition === null
        ? state.tr.replaceWith(at, at + node.nodeSize, node.content)
        : state.tr.setNodeAttribute(at, 'condition', condition),
    )
    return
  }
  if (condition === null) return
  const phrase = state.schema.nodes['phrase']!
  if (empty) {
    const made = phrase.create({ condition }, state.schema.text('words'))
    view.dispatch(state.tr.replaceSelectionWith(made, false))
    editor.commands.setTextSelection({ from: from + 1, to: from + 6 })
  } else if ($from.sameParent(state.selection.$to))
    view.dispatch(
      state.tr.replaceWith(from, to, phrase.create({ condition }, state.doc.slice(from, to).content)),
    )
}
