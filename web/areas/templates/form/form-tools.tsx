import { useMutation } from '@tanstack/react-query'
import {
  FilePlus2,
  FileStack,
  PanelLeft,
  Redo2,
  ScanSearch,
  TextCursorInput,
  Undo2,
  Magnet,
} from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { FormPage } from '#core/document/tree.ts'
import { withMarked } from '#core/form/marked.ts'
import { pagesOfFile } from '#core/form/new-form.ts'
import { useSearchParams } from 'react-router'
import { call, problemText } from '#web/api/client.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Gap, Tool } from '#web/areas/templates/editor/tool.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { PAGE_FILES } from './bring-files.ts'
import { Placing } from './placing.ts'
import { newId } from './form-pages.ts'
import { ReplaceDialog } from './replace-dialog.tsx'

/** Undo, pages, what is found, other versions. */
export function FormTools({
  draft,
  placing,
  pages,
  file,
  inView,
  shown,
  onStrip,
  onSnap,
  onLook,
}: {
  readonly draft: TemplateDraft
  readonly placing: Placing
  readonly pages: readonly FormPage[]
  readonly file: string | null
  readonly inView: number
  readonly shown: {
    readonly strip: boolean
    readonly snap: boolean
    readonly looking: 'likely' | 'fields' | null
  }
  readonly onStrip: () => void
  readonly onSnap: () => void
  readonly onLook: (what: 'likely' | 'fields') => void
}) {
  const { editable } = useStudio()
  const { steps } = useDraft(draft)
  const say = useNotice()
  const input = useRef<HTMLInputElement>(null)
  const [wanted, setWanted] = useState<'add' | 'replace'>('add')
  const [replaced, setReplaced] = useState<Answer<Api['replacePages']> | null>(null)
  const bring = useMutation({
    mutationFn: async (chosen: File) => {
      const brought = await call('bringIn', { query: { name: chosen.name }, body: chosen })
      const left = brought.report.filter(({ kind }) => kind !== 'carried over')
      if (left.length)
        say(left.map(({ what, count }) => (count > 1 ? `${what} (${count})` : what)).join('; '), 'done')
      if (wanted === 'add') {
        placing.addPages(pagesOfFile(brought, newId), inView + 1)
        draft.change((now) => withMarked(now, brought.file, brought.fields, newId))
      } else if (file)
        setReplaced(
          await call('replacePages', { body: { content: draft.content, old: file, file: brought.file } }),
        )
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  // Whoever brought in another version of a form from the list comes here with it.
  const [search, setSearch] = useSearchParams()
  const version = search.get('replace')
  useEffect(() => {
    if (!version) return
    const old = search.get('of') ?? file
    setSearch({}, { replace: true })
    if (!old) return
    void call('replacePages', { body: { content: draft.content, old, file: version } })
      .then(setReplaced)
      .catch((error: unknown) => say(problemText(error), 'fault'))
  }, [version, search, setSearch, file, draft, say])
  const ask = (what: 'add' | 'replace') => {
    setWanted(what)
    input.current?.click()
  }
  return (
    <div
      role="toolbar"
      aria-label="Pages"
      className="flex shrink-0 flex-wrap items-center gap-0.5 border-b border-hair px-2 py-1"
    >
      <Tool label="Pages to put in order" active={shown.strip} onClick={onStrip}>
        <PanelLeft size={15} />
      </Tool>
      {editable && (
        <>
          <Gap />
          <Tool label="Undo (Ctrl Z)" disabled={steps.undo === 0} onClick={draft.undo}>
            <Undo2 size={15} />
          </Tool>
          <Tool label="Redo (Ctrl Shift Z)" disabled={steps.redo === 0} onClick={draft.redo}>
            <Redo2 size={15} />
          </Tool>
          <Gap />
          <Tool label="Likely blanks" active={shown.looking === 'likely'} onClick={() => onLook('likely')}>
            <ScanSearch size={15} /> Likely blanks
          </Tool>
          <Tool
            label="Its fields: those the file has itself"
            active={shown.looking === 'fields'}
            onClick={() => onLook('fields')}
          >
            <TextCursorInput size={15} /> Its fields
          </Tool>
          <Gap />
          <Tool label="Hold on to lines of the page (Alt: not)" active={shown.snap} onClick={onSnap}>
            <Magnet size={15} />
          </Tool>
          <Gap />
          <Tool label="Add pages from a file" disabled={bring.isPending} onClick={() => ask('add')}>
            <FilePlus2 size={15} /> Add pages
          </Tool>
          <Tool
            label="Other version of the file, in its place"
            disabled={bring.isPending || !file}
            onClick={() => ask('replace')}
          >
            <FileStack size={15} /> Other version
          </Tool>
          {bring.isPending && (
            <span role="status" className="text-xs text-soft">
              Reading the file …
            </span>
          )}
          <input
            ref={input}
            type="file"
            hidden
            aria-label={wanted === 'add' ? 'File to add' : 'Other version of the file'}
            accept={PAGE_FILES}
            onChange={(event) => {
              const [chosen] = event.target.files ?? []
              event.target.value = ''
              if (chosen) bring.mutate(chosen)
            }}
          />
        </>
      )}
      <span className="ml-auto pr-1 text-xs text-soft">
        page {inView + 1} of {pages.length}
      </span>
      {replaced && (
        <ReplaceDialog
          replaced={replaced}
          before={pages}
          onTake={() => {
            draft.change(() => replaced.content)
            setReplaced(null)
          }}
          onClose={() => setReplaced(null)}
        />
      )}
    </div>
  )
}
