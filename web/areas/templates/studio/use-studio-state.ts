import type { Editor } from '@tiptap/react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { isText } from '#core/document/walk.ts'
import { templateFields } from '#core/merge/fields.ts'
import { useAnswer } from '#web/api/client.ts'
import { openDrafts } from '#web/areas/templates/draft/open-drafts.ts'
import { type Proof, type Studio, useFieldScopes } from '#web/areas/templates/draft/studio-context.ts'
import type { TemplateDraft } from '#web/areas/templates/draft/template-draft.ts'
import { useChecks } from '#web/areas/templates/draft/use-checks.ts'
import { positionOf } from '#web/areas/templates/text/passages.ts'
import { useDraft } from '#web/drafts/use-draft.ts'
import { useActs } from '#web/frame/commands.ts'
import { useSettled } from '#web/parts/use-settled.ts'

type Template = Answer<Api['template']>

const PANELS = ['text', 'data', 'roles', 'page', 'sending', 'checks', 'cases', 'editions'] as const
/** A form is laid out already: its pages stand where the text would. */
const FORM_PANELS = ['pages', 'data', 'roles', 'sending', 'checks', 'cases', 'editions'] as const
type Panel = (typeof PANELS | typeof FORM_PANELS)[number]

/** The panel that is shown, by the address; the first one is home. */
function usePanel(isForm: boolean) {
  const [search, setSearch] = useSearchParams()
  const panels: readonly [Panel, ...Panel[]] = isForm ? FORM_PANELS : PANELS
  const [home] = panels
  const show = useCallback(
    (each: string) => setSearch(each === home ? {} : { panel: each }, { replace: true }),
    [setSearch, home],
  )
  return { panels, home, panel: panels.find((each) => each === search.get('panel')) ?? home, show }
}

/** Goes to a passage of the text, or of the form's pages, from wherever one is. */
function useGoTo(show: () => void) {
  const [wanted, setWanted] = useState<string | null>(null)
  const editor = useRef<Editor | null>(null)
  const goTo = useCallback(
    (passage: string) => {
      show()
      setWanted(null)
      // What is gone to has to be in view before it can be scrolled.
      setTimeout(() => (setWanted(passage), showPassage(editor.current, passage)), 0)
    },
    [show],
  )
  const onEditor = useCallback((made: Editor | null) => (editor.current = made), [])
  return { wanted, goTo, onEditor }
}

/** Ctrl S saves; Ctrl Z undoes where no text has an undo of its own. */
function useDraftKeys({ undo, redo, settle }: TemplateDraft, panel: Panel): void {
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
}

/** What can be done with the template under Ctrl K. */
function useTemplateActs(
  { may }: Template,
  { undo, redo, settle }: TemplateDraft,
  editable: boolean,
  { panels, show }: ReturnType<typeof usePanel>,
  publish: () => void,
): void {
  const acts = useMemo(() => {
    const act = (label: string, run: () => void) => ({ label, hint: 'This template', run })
    return [
      ...panels.map((each) => act(`Show ${each}`, () => show(each))),
      ...(editable ? [act('Save now', () => void settle()), act('Undo', undo), act('Redo', redo)] : []),
      ...(may.publish ? [act('Publish the draft', publish)] : []),
    ]
  }, [editable, may.publish, panels, show, settle, undo, redo, publish])
  useActs(acts)
}

/** Everything that the studio of one template works on: its draft, the panel, the proof, and what is checked. */
export function useStudioState(template: Template, editable: boolean) {
  const [draft] = useState(() => openDrafts.of(template))
  useEffect(() => openDrafts.seen(template), [template])
  const { content, save, theirs } = useDraft(draft)
  const isForm = !isText(content.document)
  const panel = usePanel(isForm)
  const { show, home } = panel
  const { wanted, goTo, onEditor } = useGoTo(useCallback(() => show(home), [show, home]))
  const [proof, setProof] = useState<Proof | null>(null)
  const [source, setSource] = useState<{ readonly sheetId: string | null; readonly row: number | null }>({
    sheetId: null,
    row: null,
  })
  const [publishing, setPublishing] = useState(false)
  const { sheetId, row } = source
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
  useDraftKeys(draft, panel.panel)
  useTemplateActs(
    template,
    draft,
    editable,
    panel,
    useCallback(() => setPublishing(true), []),
  )
  const chooseSheet = useCallback((next: string | null) => setSource({ sheetId: next, row: null }), [])
  const chooseRow = useCallback((next: number | null) => setSource((now) => ({ ...now, row: next })), [])
  const templateId = template.id
  const { change } = draft
  const studio = useMemo<Studio>(
    () => ({
      templateId,
      content,
      editable,
      change,
      all,
      checks,
      proof,
      sheetId,
      chooseSheet,
      row,
      chooseRow,
      namesIn,
      fieldsIn,
      goTo,
    }),
    [
      templateId,
      content,
      editable,
      change,
      all,
      checks,
      proof,
      sheetId,
      chooseSheet,
      row,
      chooseRow,
      namesIn,
      fieldsIn,
      goTo,
    ],
  )
  return { draft, save, theirs, studio, isForm, panel, wanted, onEditor, setProof, publishing, setPublishing }
}

const cueCheck = ({ id, title, message }: Proof['cues'][number]): Studio['checks'][number] => ({
  level: 'fault',
  where: 'block',
  id,
  title,
  message,
  from: null,
  to: null,
})

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
