import { Extension, InputRule } from '@tiptap/core'
import { Bold as BoldMark } from '@tiptap/extension-bold'
import { Document } from '@tiptap/extension-document'
import { Italic as ItalicMark } from '@tiptap/extension-italic'
import { Text } from '@tiptap/extension-text'
import { Gapcursor, UndoRedo } from '@tiptap/extensions'
import { HardBreak } from '@tiptap/extension-hard-break'
import { EditorContent, useEditor, useEditorState } from '@tiptap/react'
import type { Editor, JSONContent } from '@tiptap/react'
import {
  Bold,
  Braces,
  Heading2,
  Italic,
  List,
  ListOrdered,
  PenLine,
  Redo2,
  SplitSquareVertical,
  Undo2,
} from 'lucide-react'
import { Popover } from 'radix-ui'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { ReactNode } from 'react'
import type { TemplateContent } from '#core/document/template.ts'
import { BLANK_KINDS } from '#core/document/tree.ts'
import type { BlankKind, DocumentTree } from '#core/document/tree.ts'
import { nameTypes } from '#core/outline/field.ts'
import { DISPLAY_FORMATS } from '#core/text/format.ts'
import { indentClause, outdentClause, splitClause, toggleClause } from './clause-commands.ts'
import { FieldPicker } from './field-picker.tsx'
import { ConditionForm, MarginNotes } from './margin-notes.tsx'
import {
  BlankNode,
  Clause,
  Ids,
  MergeFieldNode,
  PageBreakNode,
  PlainHeading,
  PlainList,
  PlainListItem,
  PlainParagraph,
  SignatureBlockNode,
} from './nodes.ts'

const ClauseKeys = Extension.create({
  name: 'clauseKeys',
  priority: 1000,
  addKeyboardShortcuts() {
    const run = (command: typeof indentClause) => () => command(this.editor.state, this.editor.view.dispatch)
    return {
      Enter: run(splitClause),
      Tab: run(indentClause),
      'Shift-Tab': run(outdentClause),
      'Mod-Alt-c': run(toggleClause),
    }
  },
})

/** `{{name}}` as typed becomes a merge field. */
const FieldsAsTyped = Extension.create({
  name: 'fieldsAsTyped',
  addInputRules() {
    return [
      new InputRule({
        find: /\{\{\s*([\p{L}_][\p{L}\p{N}_.]*)\s*\}\}$/u,
        handler: ({ state, range, match }) =>
          void state.tr.replaceWith(
            range.from,
            range.to,
            state.schema.nodes['mergeField']!.create({ field: match[1], format: null }),
          ),
      }),
    ]
  },
})

interface Props {
  readonly content: TemplateContent
  readonly editable: boolean
  readonly dropped: ReadonlySet<string>
  readonly onChange: (document: DocumentTree) => void
}

/** The page of text with its margin. What is typed comes out as the document tree of core. */
export function PageEditor({ content, editable, dropped, onChange }: Props) {
  const page = useRef<HTMLDivElement>(null)
  const change = useRef(onChange)
  useEffect(() => {
    change.current = onChange
  })
  const initial = useRef(content.document)
  const editor = useEditor({
    extensions: [
      Document,
      Text,
      BoldMark,
      ItalicMark,
      HardBreak,
      UndoRedo,
      Gapcursor,
      ClauseKeys,
      FieldsAsTyped,
      Ids,
      PlainParagraph,
      PlainHeading,
      PlainList,
      PlainListItem,
      Clause,
      MergeFieldNode,
      BlankNode,
      SignatureBlockNode,
      PageBreakNode,
    ],
    content: initial.current as unknown as JSONContent,
    editable,
    editorProps: {
      attributes: {
        class: 'page-text',
        'aria-label': 'Template text',
        role: 'textbox',
        'aria-multiline': 'true',
      },
    },
    onUpdate: ({ editor: now }) => change.current(now.getJSON() as unknown as DocumentTree),
  })
  const names = useMemo(() => nameTypes(content.outline), [content.outline])
  if (!editor) return null
  return (
    <div className="flex h-full min-h-0 flex-col">
      {editable && <Tools editor={editor} content={content} />}
      <div className="min-h-0 flex-1 overflow-auto">
        <div ref={page} className="relative mx-auto my-4 max-w-3xl min-w-lg pr-4 pl-40">
          <MarginNotes editor={editor} page={page} names={names} dropped={dropped} />
          <div className="border border-hair bg-sheet px-8 py-8">
            <EditorContent editor={editor} />
          </div>
        </div>
      </div>
    </div>
  )
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
      className={`flex h-7 min-w-7 items-center justify-center gap-1 rounded-sm px-1.5 text-sm disabled:opacity-35 ${active ? 'bg-petrol-wash text-petrol' : 'hover:bg-wash'}`}
    >
      {children}
    </button>
  )
}

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
        <button
          type="button"
          className="flex h-7 items-center gap-1.5 rounded-sm px-1.5 text-sm hover:bg-wash"
        >
          {icon}
          {label}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={6} className="z-40 border border-hair bg-paper p-3">
          {children(() => setOpen(false))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function Tools({ editor, content }: { readonly editor: Editor; readonly content: TemplateContent }) {
  const state = useEditorState({
    editor,
    selector: ({ editor: now }) => {
      const node =
        'node' in now.state.selection
          ? (
              now.state.selection as unknown as {
                node: { type: { name: string }; attrs: Record<string, unknown> }
              }
            ).node
          : null
      return {
        bold: now.isActive('bold'),
        italic: now.isActive('italic'),
        heading: now.isActive('heading'),
        clause: now.isActive('clause'),
        list: now.isActive('bulletList'),
        undo: now.can().undo(),
        redo: now.can().redo(),
        field:
          node?.type.name === 'mergeField'
            ? { name: String(node.attrs['field']), format: node.attrs['format'] as string | null }
            : null,
      }
    },
  })
  const chain = () => editor.chain().focus()
  const names = useMemo(() => nameTypes(content.outline), [content.outline])
  const conditionHere = () => {
    const { $from } = editor.state.selection
    for (let depth = $from.depth; depth > 0; depth--)
      if ($from.node(depth).type.name === 'clause')
        return {
          position: $from.before(depth),
          condition: ($from.node(depth).attrs['condition'] as string | null) ?? '',
        }
    return { position: $from.before(1), condition: ($from.node(1).attrs['condition'] as string | null) ?? '' }
  }
  const field = content.outline.find(({ name }) => name === state.field?.name)
  return (
    <div
      role="toolbar"
      aria-label="Writing"
      className="flex shrink-0 flex-wrap items-center gap-0.5 border-b border-hair px-3 py-1"
    >
      <Tool label="Undo (Ctrl Z)" disabled={!state.undo} onClick={() => chain().undo().run()}>
        <Undo2 size={15} />
      </Tool>
      <Tool label="Redo (Ctrl Shift Z)" disabled={!state.redo} onClick={() => chain().redo().run()}>
        <Redo2 size={15} />
      </Tool>
      <span className="mx-1 h-4 border-l border-hair" />
      <Tool label="Heading" active={state.heading} onClick={() => chain().toggleHeading({ level: 2 }).run()}>
        <Heading2 size={15} />
      </Tool>
      <Tool
        label="Clause (Ctrl Alt C)"
        active={state.clause}
        onClick={() => (toggleClause(editor.state, editor.view.dispatch), editor.view.focus())}
      >
        <ListOrdered size={15} />
      </Tool>
      <Tool label="List" active={state.list} onClick={() => chain().toggleBulletList().run()}>
        <List size={15} />
      </Tool>
      <Tool label="Bold (Ctrl B)" active={state.bold} onClick={() => chain().toggleBold().run()}>
        <Bold size={15} />
      </Tool>
      <Tool label="Italic (Ctrl I)" active={state.italic} onClick={() => chain().toggleItalic().run()}>
        <Italic size={15} />
      </Tool>
      <span className="mx-1 h-4 border-l border-hair" />
      <Pop label="Merge field" icon={<Braces size={15} />}>
        {(close) => (
          <FieldPicker
            outline={content.outline}
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
            content={content}
            onPick={(kind, role, label) => {
              close()
              chain()
                .insertContent({ type: 'blank', attrs: { id: null, kind, role, label, required: true } })
                .run()
            }}
          />
        )}
      </Pop>
      <Pop label="Condition" icon={<SplitSquareVertical size={15} />}>
        {(close) => (
          <div className="w-88">
            <ConditionForm
              initial={conditionHere().condition}
              names={names}
              onSet={(condition) => {
                editor.view.dispatch(
                  editor.state.tr.setNodeAttribute(conditionHere().position, 'condition', condition),
                )
                close()
              }}
            />
          </div>
        )}
      </Pop>
      {state.field && (
        <label className="ml-auto flex items-center gap-2 text-sm">
          <span className="text-soft">
            {field ? `${field.label} shown as` : `There is no field “${state.field.name}”`}
          </span>
          {field && (
            <select
              className="rounded-sm border border-hair bg-sheet px-1 py-0.5"
              value={state.field.format ?? DISPLAY_FORMATS[field.type][0]}
              onChange={(event) =>
                chain().updateAttributes('mergeField', { format: event.target.value }).run()
              }
            >
              {DISPLAY_FORMATS[field.type].map((format) => (
                <option key={format}>{format}</option>
              ))}
            </select>
          )}
        </label>
      )}
    </div>
  )
}

function BlankForm({
  content,
  onPick,
}: {
  readonly content: TemplateContent
  readonly onPick: (kind: BlankKind, role: string, label: string) => void
}) {
  const [role, setRole] = useState(content.roles[0]?.key ?? '')
  const [label, setLabel] = useState('')
  return (
    <div className="w-64 text-sm">
      <div className="flex gap-1" role="radiogroup" aria-label="Role">
        {content.roles.map((each) => (
          <button
            key={each.key}
            role="radio"
            aria-checked={role === each.key}
            className={`rounded-sm border px-2 py-0.5 ${role === each.key ? 'border-petrol bg-petrol-wash' : 'border-hair'}`}
            onClick={() => setRole(each.key)}
          >
            {each.label}
          </button>
        ))}
      </div>
      <input
        aria-label="What to fill in"
        placeholder="What to fill in"
        className="mt-2 w-full border border-hair bg-sheet px-2 py-1"
        value={label}
        onChange={(event) => setLabel(event.target.value)}
      />
      <div className="mt-2 grid grid-cols-2 gap-1">
        {BLANK_KINDS.map((kind) => (
          <button
            key={kind}
            className="border border-hair px-2 py-1 text-left hover:bg-wash"
            onClick={() => onPick(kind, role, label || kind)}
          >
            {kind}
          </button>
        ))}
      </div>
    </div>
  )
}
