import type { Editor } from '@tiptap/react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { isText } from '#core/document/walk.ts'
import { templateFields } from '#core/merge/fields.ts'
import { address, call, useAnswer } from '#web/api/client.ts'
import { useActs } from '#web/frame/commands.ts'
import { useNotice } from '#web/api/notices.tsx'
import { useMay } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Hint } from '#web/parts/hint.tsx'
import { Input } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { Tabs } from '#web/parts/tabs.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import { FormEditor } from '#web/areas/templates/form/form-editor.tsx'
import { PageEditor } from '#web/areas/templates/editor/page-editor.tsx'
import { positionOf } from '#web/areas/templates/text/passages.ts'
import { CasesPanel } from '#web/areas/templates/panels/cases-panel.tsx'
import { ChecksPanel } from '#web/areas/templates/panels/checks-panel.tsx'
import { CompareView } from '#web/areas/templates/panels/compare-view.tsx'
import { DataPanel } from '#web/areas/templates/panels/data-panel.tsx'
import { EditionsPanel } from '#web/areas/templates/panels/editions-panel.tsx'
import { PagePanel } from '#web/areas/templates/panels/page-panel.tsx'
import { RolesPanel } from '#web/areas/templates/panels/roles-panel.tsx'
import { SendingPanel } from '#web/areas/templates/panels/sending-panel.tsx'
import { ProofPane } from './proof-pane.tsx'
import {
  type Proof,
  type Studio as StudioState,
  StudioContext,
  useFieldScopes,
  useStudio,
} from '#web/areas/templates/draft/studio-context.ts'
import { useChecks } from '#web/areas/templates/draft/use-checks.ts'
import type { Change } from '#web/areas/templates/draft/template-draft.ts'
import type { SaveState, Theirs } from '#web/drafts/draft-store.ts'
import { openDrafts } from '#web/areas/templates/draft/open-drafts.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { useSettled } from '#web/parts/use-settled.ts'
import { NoteForm } from '#web/parts/form/note-form.tsx'

export default function Studio() {
  const { id = '' } = useParams()
  const template = useAnswer('template', { params: { id } })
  if (template.isPending) return <Loading />
  if (template.isError) return <Failed error={template.error} retry={() => void template.refetch()} />
  return <OpenTemplate key={id} template={template.data} />
}

const PANELS = ['text', 'data', 'roles', 'page', 'sending', 'checks', 'cases', 'editions'] as const
/** A form is laid out already: its pages stand where the text would. */
const FORM_PANELS = ['pages', 'data', 'roles', 'sending', 'checks', 'cases', 'editions'] as const

function Saved({ save }: { readonly save: SaveState }) {
  if (save.kind === 'fault')
    return (
      <span role="alert" className="line-clamp-2 max-w-60 text-brick" title={save.text}>
        {save.text}
      </span>
    )
  return (
    <span role="status" className="whitespace-nowrap">
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
  const writer = useMay('templates')
  const editable = writer && template.may.edit
  const [search, setSearch] = useSearchParams()
  const [draft] = useState(() => openDrafts.of(template))
  useEffect(() => openDrafts.seen(template), [template])
  const { content, save, theirs } = useDraft(draft)
  const isForm = !isText(content.document)
  const panels: readonly (typeof PANELS | typeof FORM_PANELS)[number][] = isForm ? FORM_PANELS : PANELS
  const [home] = panels as [(typeof panels)[number]]
  const panel = panels.find((each) => each === search.get('panel')) ?? home
  const showPanel = useCallback(
    (each: string) => setSearch(each === home ? {} : { panel: each }, { replace: true }),
    [setSearch, home],
  )
  const [wanted, setWanted] = useState<string | null>(null)
  const { change, undo, redo, settle } = draft
  const [proof, setProof] = useState<Proof | null>(null)
  const [sheetId, setSheetId] = useState<string | null>(null)
  const [row, setRow] = useState<number | null>(null)
  const editor = useRef<Editor | null>(null)
  const [publishing, setPublishing] = useState(false)
  const mapping = useAnswer(
    'mapping',
    { params: { id: sheetId ?? '', template: template.id } },
    { enabled: sheetId !== null },
  )
  const found = useChecks(useSettled(content, 200), mapping.data?.columns ?? null)
  const checks = useMemo(() => [...(proof?.cues ?? []).map(cueCheck), ...found], [proof?.cues, found])
  const { outline, roles, language } = content
  const all = useMemo(
    () => templateFields({ ...content, outline, roles, language }).all,
    // The wording has no part in what fields there are.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [outline, roles, language],
  )
  const { namesIn, fieldsIn } = useFieldScopes(all)
  const goTo = useCallback(
    (passage: string) => {
      setSearch({}, { replace: true })
      setWanted(null)
      // What is gone to has to be in view before it can be scrolled.
      setTimeout(() => (setWanted(passage), showPassage(editor.current, passage)), 0)
    },
    [setSearch],
  )
  const onEditor = useCallback((made: Editor | null) => (editor.current = made), [])
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey)) return
      const key = event.key.toLowerCase()
      if (key === 's') {
        event.preventDefault()
        void settle()
      }
      if (key !== 'z' || panel === 'text') return
      if (event.target instanceof HTMLElement && event.target.matches('input, textarea, .cm-content')) return
      event.preventDefault()
      if (event.shiftKey) redo()
      else undo()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [panel, undo, redo, settle])
  const chooseSheet = useCallback((next: string | null) => {
    setSheetId(next)
    setRow(null)
  }, [])
  const studio = useMemo<StudioState>(
    () => ({
      templateId: template.id,
      content,
      editable,
      change,
      all,
      checks,
      proof,
      sheetId,
      chooseSheet,
      row,
      chooseRow: setRow,
      namesIn,
      fieldsIn,
      goTo,
    }),
    [
      template.id,
      content,
      editable,
      change,
      all,
      checks,
      proof,
      sheetId,
      chooseSheet,
      row,
      namesIn,
      fieldsIn,
      goTo,
    ],
  )
  const acts = useMemo(
    () => [
      ...panels.map((each) => ({
        label: `Show ${each}`,
        hint: 'This template',
        run: () => showPanel(each),
      })),
      ...(editable
        ? [
            { label: 'Save now', hint: 'This template', run: () => void settle() },
            { label: 'Undo', hint: 'This template', run: undo },
            { label: 'Redo', hint: 'This template', run: redo },
          ]
        : []),
      ...(template.may.publish
        ? [{ label: 'Publish the draft', hint: 'This template', run: () => setPublishing(true) }]
        : []),
    ],
    [editable, template.may.publish, panels, showPanel, settle, undo, redo],
  )
  useActs(acts)
  const serious = checks.filter(({ level }) => level !== 'hint').length
  return (
    <StudioContext value={studio}>
      <div className="flex h-full flex-col">
        <div className="flex h-12 shrink-0 items-center gap-3 border-b border-hair px-4">
          <Title title={content.title} change={editable ? change : null} />
          <Tabs
            label="Parts of the template"
            tabs={panels}
            chosen={panel}
            counts={{ checks: serious || undefined }}
            onChoose={showPanel}
          />
          <Hint topic={panel} key={panel} />
          <span className="ml-auto text-xs text-soft">
            {editable ? <Saved save={save} /> : 'You may read this template'}
          </span>
          <Link
            to={`/templates/${template.id}/afterwards`}
            className="text-sm whitespace-nowrap text-petrol hover:underline"
          >
            What follows
          </Link>
          {!isForm && (
            <a
              className="text-sm text-petrol hover:underline"
              href={address('exportTemplate', { params: { id: template.id } })}
              download
            >
              DOCX
            </a>
          )}
          {template.may.publish && (
            <Publish
              template={template}
              open={publishing}
              setOpen={setPublishing}
              settle={settle}
              faults={checks.filter(({ level }) => level === 'fault').length}
            />
          )}
        </div>
        {theirs && <Conflict theirs={theirs} onSettle={draft.settleConflict} />}
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1.15fr)_minmax(0,1fr)]">
          <div className={panel === home ? 'min-h-0 overflow-hidden' : 'hidden'}>
            {isForm ? (
              <FormEditor draft={draft} goTo={wanted} />
            ) : (
              <PageEditor draft={draft} onEditor={onEditor} />
            )}
          </div>
          {panel === 'data' && <DataPanel />}
          {panel === 'roles' && <RolesPanel />}
          {panel === 'page' && <PagePanel />}
          {panel === 'sending' && <SendingPanel />}
          {panel === 'checks' && <ChecksPanel />}
          {panel === 'cases' && <CasesPanel />}
          {panel === 'editions' && <EditionsPanel template={template} />}
          {writer ? (
            <ProofPane onProof={setProof} />
          ) : (
            <p className="border-l border-hair p-6 text-soft">Proofs are for those who write templates.</p>
          )}
        </div>
      </div>
    </StudioContext>
  )
}

const cueCheck = ({ id, title, message }: Proof['cues'][number]): StudioState['checks'][number] => ({
  level: 'fault',
  where: 'block',
  id,
  title,
  message,
  from: null,
  to: null,
})

/** The template's title; whoever may edit it renames it where it stands. */
function Title({ title, change }: { readonly title: string; readonly change: Change | null }) {
  const [text, setText] = useState<string | null>(null)
  const done = (keep: boolean) => {
    const wanted = text?.trim()
    if (keep && wanted && wanted !== title) change?.((before) => ({ ...before, title: wanted }), 'title')
    setText(null)
  }
  if (text === null)
    return (
      <h1 className="max-w-64 text-lg" title={title}>
        {change ? (
          <button
            className="block max-w-full truncate hover:underline"
            aria-label={`${title}, rename`}
            onClick={() => setText(title)}
          >
            {title}
          </button>
        ) : (
          <span className="block truncate">{title}</span>
        )}
      </h1>
    )
  return (
    <Input
      autoFocus
      aria-label="Title of the template"
      className="max-w-64"
      maxLength={200}
      value={text}
      onFocus={(event) => event.target.select()}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => done(true)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') done(true)
        if (event.key === 'Escape') done(false)
      }}
    />
  )
}

/** Brings a passage into view and puts the cursor there. */
function showPassage(editor: Editor | null, passage: string): void {
  if (!editor) return
  const found = positionOf(editor.state.doc, passage)
  if (found === null) return
  const element = editor.view.nodeDOM(found)
  if (element instanceof HTMLElement) element.scrollIntoView({ block: 'start' })
  editor.commands.setTextSelection(found + 1)
  editor.commands.focus(undefined, { scrollIntoView: false })
}

function Publish({
  template,
  open,
  setOpen,
  settle,
  faults,
}: {
  readonly open: boolean
  readonly setOpen: (open: boolean) => void
  readonly template: Answer<Api['template']>
  readonly settle: () => Promise<number | null>
  readonly faults: number
}) {
  const say = useNotice()
  const latest = template.editions[0]?.number ?? 0
  const publish = async (note: string) => {
    const version = await settle()
    if (version === null) throw new Error('The draft could not be saved, so it was not published.')
    return call('publish', { params: { id: template.id }, body: { version, note } })
  }
  return (
    <>
      <Button
        kind="main"
        disabled={faults > 0}
        title={faults > 0 ? `${plural(faults, 'fault')} first, see Checks` : undefined}
        onClick={() => setOpen(true)}
      >
        Publish edition {latest + 1}
      </Button>
      <Dialog title={`Publish edition ${latest + 1}`} open={open} onClose={() => setOpen(false)}>
        <NoteForm
          label="What is new in it"
          submit={`Publish edition ${latest + 1}`}
          onClose={() => setOpen(false)}
          send={publish}
          onDone={({ number, cases: { failed } }) => {
            setOpen(false)
            say(
              failed.length
                ? `Edition ${number} is published. ${plural(failed.length, 'test case')} gave another wording: ${failed.join(', ')}.`
                : `Edition ${number} is published. New runs use it; agreements made before keep theirs.`,
              failed.length ? 'fault' : 'done',
            )
          }}
        >
          <p className="text-sm">
            An edition never changes. New runs use it; agreements made before keep theirs.
          </p>
        </NoteForm>
      </Dialog>
    </>
  )
}

/** Somebody else saved since: nothing of either is lost, and one of the two goes on as the draft. */
function Conflict({
  theirs,
  onSettle,
}: {
  readonly theirs: Theirs<TemplateContent>
  readonly onSettle: (keep: 'mine' | 'theirs') => void
}) {
  const [open, setOpen] = useState(false)
  const { content } = useStudio()
  return (
    <div
      role="alert"
      className="flex items-center gap-3 border-b border-brick bg-brick-wash px-4 py-2 text-sm"
    >
      <span className="flex-1">
        {theirs.by} saved this draft <When at={theirs.at} />, after you opened it. Yours is not saved; nothing
        of either is lost.
      </span>
      <Button onClick={() => setOpen(true)}>Compare the two</Button>
      <Button onClick={() => onSettle('theirs')}>Take theirs</Button>
      <Button kind="danger" onClick={() => onSettle('mine')}>
        Keep mine over theirs
      </Button>
      <Dialog title={`What ${theirs.by} saved, and yours`} open={open} onClose={() => setOpen(false)}>
        <CompareView before={theirs.content} after={content} names={['theirs', 'yours']} />
      </Dialog>
    </div>
  )
}
