import { type Editor, EditorContent, type JSONContent } from '@tiptap/react'
import { memo, useEffect, useRef, useState } from 'react'
import { Dialog } from '#web/parts/dialog.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { clauseAt, passageAt, repeatAt, setPassage } from '#web/areas/templates/text/inserts.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { ConditionForm } from '../condition/condition-form.tsx'
import { KeepForm, LibraryPicker } from '../panels/library-picker.tsx'
import { AtPassage } from './at-passage.tsx'
import { ClauseOutline } from './clause-outline.tsx'
import { InsertList } from './insert-list.tsx'
import { MarginNotes } from './margin-notes.tsx'
import { RepeatForm } from './note-form.tsx'
import { ReferencePicker } from './reference-picker.tsx'
import { Tools } from './tools.tsx'
import { useNotice } from '#web/api/notices.tsx'
import { type Asking, usePageEditor, usePassageActs } from './use-page-editor.ts'

/** Whether the margin's notes and the outline are shown, as this browser last had them. */
function useShown() {
  const [shown, setShown] = useState(() => ({
    notes: localStorage.getItem('brevan.notes') !== 'no',
    outline: localStorage.getItem('brevan.outline') === 'yes',
  }))
  useEffect(() => {
    localStorage.setItem('brevan.notes', shown.notes ? 'yes' : 'no')
    localStorage.setItem('brevan.outline', shown.outline ? 'yes' : 'no')
  }, [shown])
  return [shown, setShown] as const
}

interface Props {
  readonly draft: TemplateDraft
  readonly onEditor: (editor: Editor | null) => void
}

/** The page of text with its margin and the outline of its clauses: a view of a draft. */
export const PageEditor = memo(function PageEditor({ draft, onEditor }: Props) {
  const { editable } = useStudio()
  const say = useNotice()
  const page = useRef<HTMLDivElement>(null)
  const files = useRef<HTMLInputElement>(null)
  const [asking, setAsking] = useState<Asking>(null)
  const [shown, setShown] = useShown()
  const { steps } = useDraft(draft)
  const { editor, menu, upload } = usePageEditor(draft, files, setAsking, onEditor)
  usePassageActs(editor, setAsking)
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
          if (file) upload(file)
        }}
      />
      {menu && editable && <InsertList menu={menu} />}
      <AskedOfText editor={editor} asking={asking} onDone={() => setAsking(null)} />
    </div>
  )
})

/** What is asked about the passage at the cursor, beside it or in a window. */
function AskedOfText({
  editor,
  asking,
  onDone,
}: {
  readonly editor: Editor
  readonly asking: Asking
  readonly onDone: () => void
}) {
  const passage = asking === 'condition' || asking === 'repeat' ? passageAt(editor) : null
  return (
    <>
      <AtPassage
        label="Condition"
        editor={editor}
        position={passage?.position ?? null}
        open={asking === 'condition'}
        onClose={onDone}
      >
        <ConditionForm
          initial={(passage?.attrs['condition'] as string | null | undefined) ?? ''}
          repeat={repeatAt(editor)}
          title="Show this passage only if"
          clearLabel="Always"
          onCancel={onDone}
          onSet={(condition) => {
            setPassage(editor, { condition, ...(condition === null ? { alternative: false } : {}) })
            onDone()
          }}
        />
      </AtPassage>
      <AtPassage
        label="Words on a condition"
        editor={editor}
        position={null}
        open={asking === 'phrase'}
        onClose={onDone}
      >
        <ConditionForm
          initial={String(editor.getAttributes('phrase')['condition'] ?? '')}
          repeat={repeatAt(editor)}
          title="Show these words only if"
          clearLabel="Always"
          onCancel={onDone}
          onSet={(condition) => {
            setPhrase(editor, condition)
            onDone()
          }}
        />
      </AtPassage>
      <AtPassage
        label="Repeat"
        editor={editor}
        position={passage?.position ?? null}
        open={asking === 'repeat'}
        onClose={onDone}
      >
        <RepeatForm
          repeat={(passage?.attrs['repeat'] as string | null | undefined) ?? null}
          onSet={(repeat) => {
            setPassage(editor, { repeat })
            onDone()
          }}
        />
      </AtPassage>
      <Dialog title="Reference to a clause" open={asking === 'reference'} onClose={onDone}>
        <ReferencePicker editor={editor} onDone={onDone} />
      </Dialog>
      <Dialog title="Clause from the library" open={asking === 'library'} onClose={onDone}>
        <LibraryPicker
          onPick={(clause) => {
            onDone()
            editor
              .chain()
              .focus()
              .insertContent(clause as unknown as JSONContent)
              .run()
          }}
        />
      </Dialog>
      <Dialog title="Save clause to the library" open={asking === 'keep'} onClose={onDone}>
        <KeepForm editor={editor} position={clauseAt(editor) ?? 0} onDone={onDone} />
      </Dialog>
    </>
  )
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
