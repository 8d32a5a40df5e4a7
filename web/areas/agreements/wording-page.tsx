import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { sameContent } from '#core/compare/equal.ts'
import { isText } from '#core/document/walk.ts'
import { templateFields } from '#core/merge/fields.ts'
import { FormEditor } from '#web/areas/templates/form/form-editor.tsx'
import { PageEditor } from '#web/areas/templates/editor/page-editor.tsx'
import { CompareView } from '#web/areas/templates/panels/compare-view.tsx'
import {
  type Proof,
  STANDALONE,
  type Studio,
  StudioContext,
  useFieldScopes,
} from '#web/areas/templates/draft/studio-context.ts'
import { useChecks } from '#web/areas/templates/draft/use-checks.ts'
import { looseDraft } from '#web/areas/templates/draft/open-drafts.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { useSettled } from '#web/parts/use-settled.ts'
import { call, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { DialogButton } from '#web/parts/dialog-button.tsx'
import { NoteForm } from '#web/parts/form/note-form.tsx'
import { fromBase64 } from '#web/parts/pages/pdf.ts'
import { ProofViewer } from '#web/parts/pages/proof-viewer.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'

type OwnWording = Answer<Api['agreementWording']>

/** One agreement's wording, changed by hand for its one customer, with the values in their places. */
export default function WordingPage() {
  const { id = '' } = useParams()
  const wording = useAnswer('agreementWording', { params: { id } })
  if (wording.isPending) return <Loading />
  if (wording.isError) return <Failed error={wording.error} retry={() => void wording.refetch()} />
  return <OpenWording key={`${id}${wording.data.revision}`} id={id} wording={wording.data} />
}

function OpenWording({ id, wording }: { readonly id: string; readonly wording: OwnWording }) {
  const editable = useMay('runs') && wording.refusal === null
  const [draft] = useState(() => looseDraft(wording.content))
  const { content } = useDraft(draft)
  const [side, setSide] = useState<'proof' | 'what differs'>('proof')
  const settled = useSettled(content, 20)
  const proof = useQuery({
    queryKey: ['proof', 'agreement', id, settled],
    queryFn: ({ signal }) =>
      call('proof', {
        body: { templateId: wording.templateId, content: settled, sheetId: null, row: null, agreementId: id },
        signal,
      }),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  })
  const shown: Proof | null = proof.data ?? null
  const checks = useChecks(useSettled(content, 200), null)
  const all = useMemo(() => templateFields(content).all, [content])
  const scopes = useFieldScopes(all)
  const studio = useMemo<Studio>(
    () => ({
      templateId: wording.templateId,
      content,
      editable,
      change: draft.change,
      all,
      checks,
      ...STANDALONE,
      proof: shown,
      ...scopes,
      valued: true,
    }),
    [wording.templateId, content, editable, draft, all, scopes, checks, shown],
  )
  const bytes = useMemo(() => (shown?.pdf ? fromBase64(shown.pdf) : null), [shown?.pdf])
  return (
    <StudioContext value={studio}>
      <div className="flex h-full flex-col">
        <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
          <h1 className="truncate text-lg">{wording.name}</h1>
          <Link to={`/agreements/${id}`} className="text-sm whitespace-nowrap text-petrol hover:underline">
            {wording.number}, revision {wording.revision}
          </Link>
          {wording.refusal ? (
            <span className="ml-auto text-sm text-ochre">{wording.refusal}</span>
          ) : (
            <Revise id={id} wording={wording} content={content} faults={shown?.faults ?? []} />
          )}
        </div>
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)]">
          <div className="min-h-0 overflow-hidden">
            {isText(content.document) ? (
              <PageEditor draft={draft} onEditor={STANDALONE.goTo} />
            ) : (
              <FormEditor draft={draft} goTo={null} />
            )}
          </div>
          <section className="flex min-h-0 flex-col border-l border-hair" aria-label="Beside the wording">
            <div className="flex h-9.5 shrink-0 items-center border-b border-hair px-3">
              <Tabs
                label="Beside the wording"
                tabs={['proof', 'what differs'] as const}
                chosen={side}
                onChoose={setSide}
              />
            </div>
            <div className={side === 'proof' ? 'min-h-0 flex-1' : 'hidden'}>
              {proof.isError ? (
                <Failed error={proof.error} retry={() => void proof.refetch()} />
              ) : shown?.faults[0] ? (
                <p role="alert" className="p-4 text-brick">
                  {shown.faults[0].message}
                </p>
              ) : (
                <ProofViewer bytes={bytes} label={`Proof of ${wording.name}`} />
              )}
            </div>
            {side === 'what differs' && (
              <div className="min-h-0 flex-1 overflow-auto p-4">
                <CompareView
                  before={wording.template}
                  after={settled}
                  names={['the template', 'this agreement']}
                />
              </div>
            )}
          </section>
        </div>
      </div>
    </StudioContext>
  )
}

function Revise({
  id,
  wording,
  content,
  faults,
}: {
  readonly id: string
  readonly wording: OwnWording
  readonly content: Studio['content']
  readonly faults: Proof['faults']
}) {
  const navigate = useNavigate()
  const say = useNotice()
  const next = wording.revision + 1
  return (
    <DialogButton
      kind="main"
      className="ml-auto"
      title={`Make revision ${next}`}
      label={`Make revision ${next}`}
      disabled={sameContent(content, wording.content) || faults.length > 0}
      content={(close) => (
        <NoteForm
          label="Why it was changed"
          submit={`Make revision ${next}`}
          onClose={close}
          send={(note) =>
            call('saveWording', {
              params: { id },
              body: { revision: wording.revision, document: content.document, note },
            })
          }
          onDone={() => {
            say(`${wording.number} has its own agreement text as revision ${next}.`)
            void navigate(`/agreements/${id}`)
          }}
        >
          <p className="text-sm">
            Only this agreement changes; the template stays as it is. Approvals that the change touches are
            requested again.
          </p>
        </NoteForm>
      )}
    />
  )
}
