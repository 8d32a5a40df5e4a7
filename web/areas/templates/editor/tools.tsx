import type { Editor } from '@tiptap/react'
import { useEditorState } from '@tiptap/react'
import {
  Bold,
  Braces,
  Columns3,
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
  Rows3,
  StickyNote,
  Table,
  Trash2,
  Underline,
  Undo2,
} from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import type { ReactNode } from 'react'
import {
  addColumnAfter,
  addRowAfter,
  deleteColumn,
  deleteRow,
  deleteTable,
  mergeCells,
  setCellAttr,
  toggleHeaderRow,
} from '@tiptap/pm/tables'
import { fieldsByName } from '#core/outline/field.ts'
import { defaultFormat, DISPLAY_FORMATS } from '#core/text/format.ts'
import { useStudio } from '../studio-context.ts'
import { BlankForm } from './blank-form.tsx'
import { toggleClause } from './clause-commands.ts'
import { FieldPicker } from './field-picker.tsx'

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

function Tool({
  label,
  active = false,
  disabled = false,
  onClick,
  children,
}: {
  readonly label: string
  readonly active?: boolean
  readonly disabled?: boolean
  readonly onClick?: () => void
  readonly children: ReactNode
}) {
  return (
    <button
      type="button"
      title={label}
      aria-label={label}
      aria-pressed={active}
      disabled={disabled}
      onMouseDown={(event) => event.preventDefault()}
      onClick={onClick}
      className={`flex h-7 min-w-6 items-center justify-center gap-1 rounded-sm px-0.5 text-sm disabled:opacity-35 ${active ? 'bg-petrol-wash text-petrol' : 'hover:bg-wash'}`}
    >
      {children}
    </button>
  )
}

const Gap = () => <span className="mx-0.5 h-4 border-l border-hair" />

function Pop({
  label,
  icon,
  children,
}: {
  readonly label: string
  readonly icon: ReactNode
  readonly children: (close: () => void) => ReactNode
}) {
  const [open, setOpen] = useState(false)
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>
        <button type="button" className="flex h-7 items-center gap-1 rounded-sm px-1.5 text-sm hover:bg-wash">
          {icon}
          {label}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          collisionPadding={12}
          className="z-40 border border-hair bg-paper p-3"
        >
          {children(() => setOpen(false))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** What can be done to the text; everything is on the keyboard too, by `/`, `{{` and the usual keys. */
export function Tools({ editor, steps, undo, redo, shown, onShow, ask, onPicture }: Props) {
  const { editable, all } = useStudio()
  const state = useEditorState({
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
  const chain = () => editor.chain().focus()
  const notes = (
    <>
      <Tool
        label="Clauses to jump by"
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
    </>
  )
  return (
    <div
      role="toolbar"
      aria-label="Writing"
      className="flex shrink-0 flex-wrap items-center gap-0.5 border-b border-hair px-2 py-1"
    >
      {notes}
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
          <Tool
            label="Heading"
            active={state.heading}
            onClick={() => chain().toggleHeading({ level: 2 }).run()}
          >
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
          {state.table && <TableTools editor={editor} />}
          {state.selected?.kind === 'mergeField' && (
            <FormatChoice editor={editor} selected={state.selected} />
          )}
          {state.selected?.kind === 'blank' && (
            <Pop label={String(state.selected.attrs['label'])} icon={<PenLine size={15} />}>
              {(close) => (
                <BlankForm
                  initial={state.selected!.attrs}
                  onSet={(attrs) => {
                    close()
                    chain()
                      .updateAttributes('blank', { ...attrs })
                      .run()
                  }}
                />
              )}
            </Pop>
          )}
          {state.selected?.kind === 'image' && <PictureTools editor={editor} attrs={state.selected.attrs} />}
        </>
      )}
    </div>
  )
}

interface Selected {
  readonly kind: string
  readonly attrs: Readonly<Record<string, unknown>>
}

function selectedInline(editor: Editor): Selected | null {
  const { selection } = editor.state
  const node =
    'node' in selection
      ? (selection as unknown as { node: { type: { name: string }; attrs: Record<string, unknown> } }).node
      : null
  return node ? { kind: node.type.name, attrs: node.attrs } : null
}

function FormatChoice({ editor, selected }: { readonly editor: Editor; readonly selected: Selected }) {
  const { all } = useStudio()
  const name = String(selected.attrs['field'])
  const found = fieldsByName(all).get(name)?.field
  if (!found) return <span className="ml-auto text-sm text-brick">There is no field “{name}”</span>
  return (
    <label className="ml-auto flex items-center gap-2 text-sm">
      <span className="text-soft">{found.label} shown as</span>
      <select
        className="rounded-sm border border-hair bg-sheet px-1 py-0.5"
        value={String(selected.attrs['format'] ?? defaultFormat(found))}
        onChange={(event) =>
          editor.chain().focus().updateAttributes('mergeField', { format: event.target.value }).run()
        }
      >
        {DISPLAY_FORMATS[found.type].map((format) => (
          <option key={format}>{format}</option>
        ))}
      </select>
    </label>
  )
}

function TableTools({ editor }: { readonly editor: Editor }) {
  const run = (command: typeof addRowAfter) => () => {
    command(editor.state, editor.view.dispatch)
    editor.view.focus()
  }
  return (
    <>
      <Gap />
      <Tool label="Row below" onClick={run(addRowAfter)}>
        <Rows3 size={15} />
      </Tool>
      <Tool label="Column behind" onClick={run(addColumnAfter)}>
        <Columns3 size={15} />
      </Tool>
      <Pop label="Table" icon={<Table size={15} />}>
        {(close) => (
          <div className="flex w-44 flex-col text-sm">
            {(
              [
                ['Leave the row out', deleteRow],
                ['Leave the column out', deleteColumn],
                ['First row is the head', toggleHeaderRow],
                ['Join selected cells', mergeCells],
                ['Cell to the left', setCellAttr('align', 'left')],
                ['Cell to the middle', setCellAttr('align', 'center')],
                ['Cell to the right', setCellAttr('align', 'right')],
                ['Leave the table out', deleteTable],
              ] as const
            ).map(([label, command]) => (
              <button
                key={label}
                className="px-2 py-1 text-left hover:bg-petrol-wash"
                onClick={() => {
                  run(command)()
                  close()
                }}
              >
                {label}
              </button>
            ))}
          </div>
        )}
      </Pop>
    </>
  )
}

function PictureTools({
  editor,
  attrs,
}: {
  readonly editor: Editor
  readonly attrs: Readonly<Record<string, unknown>>
}) {
  const set = (more: Readonly<Record<string, unknown>>) =>
    editor.chain().updateAttributes('image', more).run()
  return (
    <span className="ml-auto flex items-center gap-2 text-sm">
      <input
        aria-label="What the picture shows"
        className="w-44 rounded-sm border border-hair bg-sheet px-1.5 py-0.5"
        placeholder="What the picture shows"
        value={String(attrs['alt'] ?? '')}
        onChange={(event) => set({ alt: event.target.value })}
      />
      <label className="flex items-center gap-1 text-soft">
        wide
        <input
          type="number"
          aria-label="Width in percent of the text"
          className="w-14 rounded-sm border border-hair bg-sheet px-1 py-0.5"
          min={5}
          max={100}
          value={Number(attrs['width'])}
          onChange={(event) => set({ width: Math.max(5, Math.min(100, Number(event.target.value) || 50)) })}
        />
        %
      </label>
      <Tool label="Leave the picture out" onClick={() => editor.chain().focus().deleteSelection().run()}>
        <Trash2 size={15} />
      </Tool>
    </span>
  )
}
