import { useParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { useAnswer } from '#web/api/client.ts'
import { StudioContext } from '#web/areas/templates/draft/studio-context.ts'
import { PageEditor } from '#web/areas/templates/editor/page-editor.tsx'
import { FormEditor } from '#web/areas/templates/form/form-editor.tsx'
import { CasesPanel } from '#web/areas/templates/panels/cases-panel.tsx'
import { ChecksPanel } from '#web/areas/templates/panels/checks-panel.tsx'
import { DataPanel } from '#web/areas/templates/panels/data-panel.tsx'
import { EditionsPanel } from '#web/areas/templates/panels/editions-panel.tsx'
import { PagePanel } from '#web/areas/templates/panels/page-panel.tsx'
import { RolesPanel } from '#web/areas/templates/panels/roles-panel.tsx'
import { SendingPanel } from '#web/areas/templates/panels/sending-panel.tsx'
import { useMay } from '#web/frame/person.ts'
import { Hint } from '#web/parts/hint.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { ProofPane } from './proof-pane.tsx'
import { Conflict, Elsewhere, Publish, Saved, Title } from './studio-head.tsx'
import { useStudioState } from './use-studio-state.ts'

export default function Studio() {
  const { id = '' } = useParams()
  const template = useAnswer('template', { params: { id } })
  if (template.isPending) return <Loading />
  if (template.isError) return <Failed error={template.error} retry={() => void template.refetch()} />
  return <OpenTemplate key={id} template={template.data} />
}

function OpenTemplate({ template }: { readonly template: Answer<Api['template']> }) {
  const writer = useMay('templates')
  const editable = writer && template.may.edit
  const state = useStudioState(template, editable)
  const { draft, save, theirs, studio, isForm, wanted, onEditor, setProof, publishing, setPublishing } = state
  const { panels, home, panel: shown, show } = state.panel
  const { content, checks } = studio
  const serious = checks.filter(({ level }) => level !== 'hint').length
  return (
    <StudioContext value={studio}>
      <div className="flex h-full flex-col">
        <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
          <Title title={content.title} change={editable ? draft.change : null} />
          <Tabs
            label="Parts of the template"
            tabs={panels}
            chosen={shown}
            counts={{ checks: serious || undefined }}
            onChoose={show}
          />
          <Hint topic={shown} key={shown} />
          <span className="ml-auto text-xs text-soft">{editable ? <Saved save={save} /> : 'Read only'}</span>
          <Elsewhere
            id={template.id}
            isForm={isForm}
            makes={template.editions.length > 0 && template.may.use}
          />
          {template.may.publish && (
            <Publish
              template={template}
              open={publishing}
              setOpen={setPublishing}
              settle={draft.settle}
              faults={checks.filter(({ level }) => level === 'fault').length}
            />
          )}
        </div>
        {theirs && <Conflict theirs={theirs} onSettle={draft.settleConflict} />}
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)]">
          <div className={shown === home ? 'min-h-0 overflow-hidden' : 'hidden'}>
            {isForm ? (
              <FormEditor draft={draft} goTo={wanted} />
            ) : (
              <PageEditor draft={draft} onEditor={onEditor} />
            )}
          </div>
          {shown === 'data' && <DataPanel />}
          {shown === 'roles' && <RolesPanel />}
          {shown === 'page' && <PagePanel />}
          {shown === 'sending' && <SendingPanel />}
          {shown === 'checks' && <ChecksPanel />}
          {shown === 'cases' && <CasesPanel />}
          {shown === 'editions' && <EditionsPanel template={template} />}
          {writer ? (
            <ProofPane onProof={setProof} />
          ) : (
            <p className="border-l border-hair p-6 text-soft">
              You need the right to write templates to see proofs.
            </p>
          )}
        </div>
      </div>
    </StudioContext>
  )
}
