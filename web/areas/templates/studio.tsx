import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useCallback, useMemo, useState } from 'react'
import { useParams, useSearchParams } from 'react-router'
import type { Answer } from '#contract/route.ts'
import type { Api } from '#contract/api.ts'
import type { DocumentTree } from '#core/document/tree.ts'
import { allBlocks, blockTitle } from '#core/document/walk.ts'
import { call, problemText, useAnswer } from '#web/frame/client.ts'
import { useNotice } from '#web/frame/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { When } from '#web/parts/when.tsx'
import { OutlineList, RolesForm, SendingForm } from './panels.tsx'
import { PageEditor } from './page-editor.tsx'
import { ProofPane } from './proof-pane.tsx'
import type { Proof } from './proof-pane.tsx'
import { useDraft } from './use-draft.ts'
import type { SaveState } from './use-draft.ts'

export default function Studio() {
  const { id = '' } = useParams()
  const template = useAnswer('template', { params: { id } })
  if (template.isPending) return <Loading />
  if (template.isError) return <Failed error={template.error} retry={() => void template.refetch()} />
  return <OpenTemplate key={id} template={template.data} />
}

const PANELS = ['text', 'data', 'roles', 'sending'] as const

function Saved({ save }: { readonly save: SaveState }) {
  if (save.kind === 'fault')
    return (
      <span role="alert" className="max-w-md text-brick">
        {save.text}
      </span>
    )
  return (
    <span role="status">
      {save.kind === 'saved' ? (
        <>
          Saved <When at={save.at} />
        </>
      ) : save.kind === 'saving' ? (
        'Saving …'
      ) : (
        'Not saved yet'
      )}
    </span>
  )
}

function OpenTemplate({ template }: { readonly template: Answer<Api['template']> }) {
  const may = useMay('templates')
  const say = useNotice()
  const queries = useQueryClient()
  const [search, setSearch] = useSearchParams()
  const panel = PANELS.find((each) => each === search.get('panel')) ?? 'text'
  const { content, change, save, settle } = useDraft(
    template.id,
    template.draft,
    template.draftVersion,
    template.changedAt,
  )
  const [proof, setProof] = useState<Proof | null>(null)
  const onDocument = useCallback(
    (document: DocumentTree) => change((before) => ({ ...before, document })),
    [change],
  )
  const dropped = useMemo(() => {
    const titles = new Set(proof?.dropped)
    return new Set(
      [...allBlocks(content.document.content)]
        .filter((block) => block.attrs.condition !== null && titles.has(blockTitle(block)))
        .map(({ attrs }) => attrs.id),
    )
  }, [proof, content.document])
  const publish = useMutation({
    mutationFn: async () => {
      const version = await settle()
      if (version === null) throw new Error('The draft could not be saved, so it was not published.')
      return call('publish', { params: { id: template.id }, body: { version } })
    },
    onSuccess: (edition) => {
      say(`Edition ${edition.number} is published. New runs use it; agreements made before keep theirs.`)
      void queries.invalidateQueries({ queryKey: ['template'] })
      void queries.invalidateQueries({ queryKey: ['templates'] })
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const latest = template.editions[0]
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-12 shrink-0 items-center gap-4 border-b border-hair px-4">
        <h1 className="truncate text-lg">{content.title}</h1>
        <span className="text-sm whitespace-nowrap text-soft">
          {latest ? `Edition ${latest.number}, ${latest.publishedBy}` : 'Never published'}
        </span>
        <Tabs
          label="Parts of the template"
          tabs={PANELS}
          chosen={panel}
          onChoose={(each) => setSearch(each === 'text' ? {} : { panel: each }, { replace: true })}
        />
        <span className="ml-auto text-sm text-soft">
          <Saved save={save} />
        </span>
        {may && (
          <Button
            kind="main"
            busy={publish.isPending}
            disabled={(proof?.faults.length ?? 0) > 0}
            onClick={() => publish.mutate()}
          >
            Publish edition {(latest?.number ?? 0) + 1}
          </Button>
        )}
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)]">
        <div className={panel === 'text' ? 'min-h-0 overflow-hidden' : 'hidden'}>
          <PageEditor content={content} editable={may} dropped={dropped} onChange={onDocument} />
        </div>
        {panel === 'data' && <OutlineList content={content} />}
        {panel === 'roles' && <RolesForm content={content} editable={may} change={change} />}
        {panel === 'sending' && <SendingForm content={content} editable={may} change={change} />}
        {may ? (
          <ProofPane templateId={template.id} content={content} onProof={setProof} />
        ) : (
          <p className="border-l border-hair p-6 text-soft">Proofs are for those who write templates.</p>
        )}
      </div>
    </div>
  )
}
