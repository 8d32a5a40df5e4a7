import { formatsOf } from '#core/outline/field-kinds.ts'
import type { Editor } from '@tiptap/react'
import { Columns3, Rows3, Table, Trash2 } from 'lucide-react'
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
import { defaultFormat } from '#core/text/format.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { Gap, Pop, Tool } from './tool.tsx'

/** The node that is selected as a whole. */
export interface Selected {
  readonly kind: string
  readonly attrs: Readonly<Record<string, unknown>>
}

export function selectedInline(editor: Editor): Selected | null {
  const { selection } = editor.state
  const node =
    'node' in selection
      ? (selection as unknown as { node: { type: { name: string }; attrs: Record<string, unknown> } }).node
      : null
  return node ? { kind: node.type.name, attrs: node.attrs } : null
}

/** The format of the merge field that is selected. */
export function FormatChoice({ editor, selected }: { readonly editor: Editor; readonly selected: Selected }) {
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
        {formatsOf(found.type).map((format) => (
          <option key={format}>{format}</option>
        ))}
      </select>
    </label>
  )
}

/** What can be done to the table around the cursor. */
export function TableTools({ editor }: { readonly editor: Editor }) {
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

/** What the selected picture shows, and how wide it is. */
export function PictureTools({
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
