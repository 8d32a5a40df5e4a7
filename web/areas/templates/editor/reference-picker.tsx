import type { Editor } from '@tiptap/react'
import { useState } from 'react'
import { allBlocks, clauseTitle } from '#core/document/walk.ts'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { clauseNumbers } from '#web/areas/templates/text/annotations.ts'

/** Finds a clause to refer to, and says what stands there where a record drops it. */
export function ReferencePicker({
  editor,
  onDone,
}: {
  readonly editor: Editor
  readonly onDone: () => void
}) {
  const { content } = useStudio()
  const [text, setText] = useState('')
  const [form, setForm] = useState<'number' | 'number and title'>('number')
  const [fallback, setFallback] = useState('')
  const numbers = clauseNumbers(editor.state.doc)
  const clauses = [...allBlocks(content.document.content)].flatMap((block) =>
    block.type === 'clause'
      ? [{ id: block.attrs.id, title: clauseTitle(block), number: numbers.get(block.attrs.id) ?? '' }]
      : [],
  )
  const found = clauses.filter(({ title, number }) =>
    `${number} ${title}`.toLowerCase().includes(text.toLowerCase()),
  )
  const insert = (clause: string) => {
    editor
      .chain()
      .focus()
      .insertContent({ type: 'reference', attrs: { clause, form, fallback: fallback.trim() || null } })
      .run()
    onDone()
  }
  return (
    <div>
      <Input
        autoFocus
        aria-label="Find a clause"
        placeholder="Find a clause"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <ul className="mt-2 max-h-56 overflow-auto text-sm">
        {found.map(({ id, number, title }) => (
          <li key={id}>
            <button
              className="flex w-full gap-2 px-1.5 py-1 text-left hover:bg-petrol-wash"
              onClick={() => insert(id)}
            >
              <span className="w-12 shrink-0 text-soft tabular-nums">{number}</span>
              <span className="truncate">{title}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="px-1.5 py-1 text-soft">No clause is called that.</li>}
      </ul>
      <div className="mt-3 grid grid-cols-2 gap-3">
        <Labelled label="Shown as">
          <select
            className="w-full rounded-sm border border-hair bg-sheet px-2 py-1 text-sm"
            value={form}
            onChange={(event) => setForm(event.target.value as typeof form)}
          >
            <option value="number">its number</option>
            <option value="number and title">number and title</option>
          </select>
        </Labelled>
        <Labelled label="Where the clause is dropped" hint="Nothing: a check warns">
          <Input
            value={fallback}
            placeholder="the clauses above"
            onChange={(event) => setFallback(event.target.value)}
          />
        </Labelled>
      </div>
      <div className="mt-3 flex justify-end">
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </div>
  )
}
