import type { Editor } from '@tiptap/react'
import { useState } from 'react'
import type { Clause } from '#core/document/tree.ts'
import { clauseTitle, partText } from '#core/document/walk.ts'
import { useAnswer } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { useKeepClause } from './library-note.tsx'

/** Finds a clause of the library by title, tag or words; it comes linked, or as a copy of its own. */
export function LibraryPicker({ onPick }: { readonly onPick: (clause: Clause) => void }) {
  const library = useAnswer('library')
  const [text, setText] = useState('')
  const [linked, setLinked] = useState(true)
  if (library.isPending) return <Loading />
  if (library.isError) return <Failed error={library.error} />
  const found = library.data.filter(({ title, tags, content }) =>
    `${title} ${tags.join(' ')} ${partText(content)}`.toLowerCase().includes(text.toLowerCase()),
  )
  return (
    <div>
      <Input
        autoFocus
        aria-label="Find a clause"
        placeholder="Find by title, tag or words"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <div className="mt-2 flex gap-4 text-sm" role="radiogroup" aria-label="How it comes">
        <label className="flex items-center gap-1.5">
          <input type="radio" name="linked" checked={linked} onChange={() => setLinked(true)} /> linked: new
          editions are offered here
        </label>
        <label className="flex items-center gap-1.5">
          <input type="radio" name="linked" checked={!linked} onChange={() => setLinked(false)} /> as a copy
        </label>
      </div>
      <ul className="mt-2 max-h-80 overflow-auto text-sm">
        {found.map(({ id, title, tags, edition, content }) => (
          <li key={id} className="border-b border-hair/60">
            <button
              className="w-full px-1.5 py-1.5 text-left hover:bg-petrol-wash"
              onClick={() =>
                onPick({ ...content, attrs: { ...content.attrs, source: { clause: id, edition, linked } } })
              }
            >
              <span className="font-semibold">{title}</span>{' '}
              <span className="text-xs text-soft">
                edition {edition}
                {tags.length > 0 && `, ${tags.join(', ')}`}
              </span>
              <span className="line-clamp-2 font-serif text-soft">{partText(content)}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && (
          <li className="px-1.5 py-1 text-soft">No clause of the library has these words.</li>
        )}
      </ul>
    </div>
  )
}

/** Asks under which title and tags a clause of the text goes into the library. */
export function KeepForm({
  editor,
  position,
  onDone,
}: {
  readonly editor: Editor
  readonly position: number
  readonly onDone: () => void
}) {
  const clause = editor.state.doc.nodeAt(position)?.toJSON() as Clause | undefined
  const [title, setTitle] = useState(clause?.type === 'clause' ? clauseTitle(clause) : '')
  const [tags, setTags] = useState('')
  const keep = useKeepClause(editor, onDone)
  if (clause?.type !== 'clause')
    return <p className="text-sm text-soft">Put the cursor into the clause that is to be kept.</p>
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(event) => {
        event.preventDefault()
        keep.mutate({
          position,
          title: title.trim(),
          tags: tags
            .split(',')
            .map((tag) => tag.trim())
            .filter(Boolean),
          of: null,
        })
      }}
    >
      <Input
        autoFocus
        aria-label="Title of the clause"
        value={title}
        onChange={(event) => setTitle(event.target.value)}
      />
      <Input
        aria-label="Tags, with commas between"
        placeholder="Tags, with commas between"
        value={tags}
        onChange={(event) => setTags(event.target.value)}
      />
      <p className="font-serif text-sm text-soft">{partText(clause)}</p>
      <div className="flex justify-end">
        <Button kind="main" type="submit" disabled={!title.trim()} busy={keep.isPending}>
          Save to library
        </Button>
      </div>
    </form>
  )
}
