import { useMutation } from '@tanstack/react-query'
import type { Editor, JSONContent } from '@tiptap/react'
import { compareWords } from '#core/compare/words.ts'
import type { Clause, LibrarySource } from '#core/document/tree.ts'
import { partText } from '#core/document/walk.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { WordChanges } from '#web/parts/signs/word-changes.tsx'

/** Puts the clause at a place into the library, as a new one or as the next edition of the one it is linked to. */
export function useKeepClause(editor: Editor, onDone: () => void) {
  const say = useNotice()
  return useMutation({
    mutationFn: async ({
      position,
      title,
      tags,
      of,
    }: {
      position: number
      title: string
      tags: string[]
      of: { id: string; edition: number } | null
    }) => {
      const clause = editor.state.doc.nodeAt(position)!.toJSON() as Clause
      const body = { title, tags, content: clause, edition: of?.edition ?? 0 }
      const kept = of
        ? await call('changeClause', { params: { id: of.id }, body })
        : await call('keepClause', { body })
      return { kept, position }
    },
    onSuccess: ({ kept, position }) => {
      editor.view.dispatch(
        editor.state.tr.setNodeAttribute(position, 'source', {
          clause: kept.id,
          edition: kept.edition,
          linked: true,
        }),
      )
      say(`“${kept.title}” is in the library, edition ${kept.edition}.`)
      onDone()
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
}

/** Where a clause came from, how it differs from the library now, and what to do about it. */
export function LibraryNote({
  editor,
  position,
  onDone,
}: {
  readonly editor: Editor
  readonly position: number
  readonly onDone: () => void
}) {
  const library = useAnswer('library')
  const keep = useKeepClause(editor, onDone)
  const node = editor.state.doc.nodeAt(position)
  const clause = node?.toJSON() as Clause | undefined
  const source = clause?.attrs.source as LibrarySource | null | undefined
  if (library.isPending) return <Loading />
  if (library.isError) return <Failed error={library.error} />
  const kept = library.data.find(({ id }) => id === source?.clause)
  if (!clause || !source || !kept)
    return <p className="w-72 text-sm">The clause is not in the library any more.</p>
  const words = compareWords(partText(clause), partText(kept.content))
  const same = words.every(({ kind }) => kind === 'same')
  const set = (next: LibrarySource | null) => {
    editor.view.dispatch(editor.state.tr.setNodeAttribute(position, 'source', next))
    onDone()
  }
  const takeOver = () => {
    const next: Clause = {
      ...kept.content,
      attrs: { ...clause.attrs, source: { ...source, edition: kept.edition } },
    }
    editor
      .chain()
      .insertContentAt({ from: position, to: position + node!.nodeSize }, next as unknown as JSONContent)
      .run()
    onDone()
  }
  return (
    <div className="w-96 text-sm">
      <p className="font-semibold">{kept.title}</p>
      <p className="text-soft">
        {source.linked ? 'Linked to' : 'Copied from'} edition {source.edition}; the library has edition{' '}
        {kept.edition}. {same ? 'The words are the same.' : 'What taking it over would change here:'}
      </p>
      {!same && (
        <p className="mt-2 max-h-56 overflow-auto border-l-2 border-hair pl-3 font-serif">
          <WordChanges words={words} context={10} />
        </p>
      )}
      <div className="mt-3 flex flex-wrap justify-between gap-2">
        <Button
          kind="quiet"
          onClick={() => set(source.linked ? { ...source, linked: false } : { ...source, linked: true })}
        >
          {source.linked ? 'Make it a copy' : 'Link it again'}
        </Button>
        {!same && source.edition === kept.edition && (
          <Button
            busy={keep.isPending}
            onClick={() =>
              keep.mutate({
                position,
                title: kept.title,
                tags: kept.tags,
                of: { id: kept.id, edition: kept.edition },
              })
            }
          >
            Make it edition {kept.edition + 1}
          </Button>
        )}
        <Button kind="main" disabled={same && kept.edition === source.edition} onClick={takeOver}>
          Take over edition {kept.edition}
        </Button>
      </div>
    </div>
  )
}
