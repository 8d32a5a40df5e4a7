import { type Editor, useEditorState } from '@tiptap/react'
import {
  Bold,
  Braces,
  GitBranch,
  Heading2,
  Image,
  Italic,
  Library,
  Link2,
  List,
  ListOrdered,
  ListTree,
  PanelLeft,
  PenLine,
  Redo2,
  Repeat,
  StickyNote,
  Underline,
  Undo2,
} from 'lucide-react'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { BlankForm } from './blank-form.tsx'
import { toggleClause } from '#web/areas/templates/text/clause-commands.ts'
import { FieldPicker } from './field-picker.tsx'
import { FormatChoice, PictureTools, selectedInline, TableTools } from './selection-tools.tsx'
import { Gap, Pop, Tool } from './tool.tsx'

interface Shown {
  readonly notes: boolean
  readonly outline: boolean
}

interface Props {
  readonly editor: Editor
  readonly steps: { readonly undo: number; readonly redo: number }
  readonly undo: () => void
  readonly redo: () => void
  readonly shown: Shown
  readonly onShow: (shown: Shown) => void
  readonly ask: (what: 'condition' | 'phrase' | 'repeat' | 'reference' | 'library') => void
  readonly onPicture: () => void
}

/** What is at the cursor, and the ways to change it. */
function useAtCursor(editor: Editor) {
  return useEditorState({
    editor,
    selector: ({ editor: now }) => ({
      bold: now.isActive('bold'),
      italic: now.isActive('italic'),
      underline: now.isActive('underline'),
      heading: now.isActive('heading'),
      clause: now.isActive('clause'),
      list: now.isActive('bulletList'),
      table: now.isActive('table'),
      selected: selectedInline(now),
    }),
  })
}

interface PartProps {
  readonly editor: Editor
  readonly state: ReturnType<typeof useAtCursor>
}

/** What can be done to the text; everything is on the keyboard too, by `/`, `{{` and the usual keys. */
export function Tools({ editor, steps, undo, redo, shown, onShow, ask, onPicture }: Props) {
  const { editable } = useStudio()
  const state = useAtCursor(editor)
  return (
    <div
      role="toolbar"
      aria-label="Writing"
      className="flex shrink-0 flex-wrap items-center gap-0.5 border-b border-hair px-2 py-1"
    >
      <Tool
        label="Clause outline"
        active={shown.outline}
        onClick={() => onShow({ ...shown, outline: !shown.outline })}
      >
        <PanelLeft size={15} />
      </Tool>
      <Tool
        label="Margin notes"
        active={shown.notes}
        onClick={() => onShow({ ...shown, notes: !shown.notes })}
      >
        <StickyNote size={15} />
      </Tool>
      {editable && (
        <>
          <Gap />
          <Tool label="Undo (Ctrl Z)" disabled={steps.undo === 0} onClick={undo}>
            <Undo2 size={15} />
          </Tool>
          <Tool label="Redo (Ctrl Shift Z)" disabled={steps.redo === 0} onClick={redo}>
            <Redo2 size={15} />
          </Tool>
          <Gap />
          <Structure editor={editor} state={state} />
          <Insert editor={editor} ask={ask} onPicture={onPicture} />
          <Chosen editor={editor} state={state} />
        </>
      )}
    </div>
  )
}

/** Headings, clauses, lists and marks. */
function Structure({ editor, state }: PartProps) {
  const chain = () => editor.chain().focus()
  return (
    <>
      <Tool label="Heading" active={state.heading} onClick={() => chain().toggleHeading({ level: 2 }).run()}>
        <Heading2 size={15} />
      </Tool>
      <Tool
        label="Clause (Ctrl Alt C)"
        active={state.clause}
        onClick={() => (toggleClause(editor.state, editor.view.dispatch), editor.view.focus())}
      >
        <ListTree size={15} />
      </Tool>
      <Tool label="List" active={state.list} onClick={() => chain().toggleBulletList().run()}>
        <List size={15} />
      </Tool>
      <Tool label="Lettered list" onClick={() => chain().toggleOrderedList().run()}>
        <ListOrdered size={15} />
      </Tool>
      <Tool label="Bold (Ctrl B)" active={state.bold} onClick={() => chain().toggleBold().run()}>
        <Bold size={15} />
      </Tool>
      <Tool label="Italic (Ctrl I)" active={state.italic} onClick={() => chain().toggleItalic().run()}>
        <Italic size={15} />
      </Tool>
      <Tool
        label="Underline (Ctrl U)"
        active={state.underline}
        onClick={() => chain().toggleUnderline().run()}
      >
        <Underline size={15} />
      </Tool>
    </>
  )
}

/** What is put in where the cursor is. */
function Insert({ editor, ask, onPicture }: Pick<Props, 'editor' | 'ask' | 'onPicture'>) {
  const { all } = useStudio()
  const chain = () => editor.chain().focus()
  return (
    <>
      <Tool label="Picture" onClick={onPicture}>
        <Image size={15} />
      </Tool>
      <Tool label="Reference to a clause" onClick={() => ask('reference')}>
        <Link2 size={15} />
      </Tool>
      <Tool label="Clause from the library" onClick={() => ask('library')}>
        <Library size={15} />
      </Tool>
      <Gap />
      <Pop label="Field" icon={<Braces size={15} />}>
        {(close) => (
          <FieldPicker
            outline={all}
            onPick={(name) => {
              close()
              chain()
                .insertContent({ type: 'mergeField', attrs: { field: name, format: null } })
                .run()
            }}
          />
        )}
      </Pop>
      <Pop label="Blank" icon={<PenLine size={15} />}>
        {(close) => (
          <BlankForm
            initial={null}
            onSet={(attrs) => {
              close()
              chain()
                .insertContent({ type: 'blank', attrs: { ...attrs, id: null } })
                .run()
            }}
          />
        )}
      </Pop>
      <button
        type="button"
        className="flex h-7 items-center gap-1 rounded-sm px-1.5 text-sm hover:bg-wash"
        onClick={() =>
          ask(editor.state.selection.empty && !editor.isActive('phrase') ? 'condition' : 'phrase')
        }
      >
        <GitBranch size={15} /> Condition
      </button>
      <Tool label="Repeat with a list" onClick={() => ask('repeat')}>
        <Repeat size={15} />
      </Tool>
    </>
  )
}

/** What can be done to the table, field, blank or picture that is chosen. */
function Chosen({ editor, state: { table, selected } }: PartProps) {
  return (
    <>
      {table && <TableTools editor={editor} />}
      {selected?.kind === 'mergeField' && <FormatChoice editor={editor} selected={selected} />}
      {selected?.kind === 'blank' && (
        <Pop label={String(selected.attrs['label'])} icon={<PenLine size={15} />}>
          {(close) => (
            <BlankForm
              initial={selected.attrs}
              onSet={(attrs) => {
                close()
                editor
                  .chain()
                  .focus()
                  .updateAttributes('blank', { ...attrs })
                  .run()
              }}
            />
          )}
        </Pop>
      )}
      {selected?.kind === 'image' && <PictureTools editor={editor} attrs={selected.attrs} />}
    </>
  )
}
