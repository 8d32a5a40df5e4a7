import { useQueryClient } from '@tanstack/react-query'
import { startTransition, useCallback, useEffect, useRef, useState } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { TemplateContent } from '#core/document/template.ts'
import { call, ProblemError, problemText } from '#web/frame/client.ts'

export type SaveState =
  | { readonly kind: 'saved'; readonly at: string }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'fault'; readonly text: string; readonly lasting: boolean }

/** Somebody else's draft that was saved since this one was opened. */
export interface Theirs {
  readonly content: TemplateContent
  readonly version: number
  readonly by: string
  readonly at: string
}

export type Change = (next: (before: TemplateContent) => TemplateContent, kind?: string) => void

/** Kind of a change that comes from the editor of the text, which shows it by itself. */
export const WRITING = 'text'

const PAUSE = 800
/** Milliseconds after a key in which another may come before what is beside the text follows. */
const FOLLOW = 45
const RETRY = 4000
/** Changes of one kind in quick succession are undone together. */
const TOGETHER = 700
const MOST_STEPS = 300

/**
 * The draft as it is being written, saved by itself after a pause. A lost connection is tried again; where somebody else
 * saved since, nothing is overwritten on either side: `theirs` tells what they saved, and one of the two is chosen.
 * Undo goes over everything, text and panels alike. Without `autosave` whoever uses it keeps the content. `revision` counts changes that did not come from the editor of the text.
 */
export function useDraft(
  id: string,
  initial: TemplateContent,
  initialVersion: number,
  changedAt: string,
  autosave = true,
) {
  const queries = useQueryClient()
  const [content, setContent] = useState(initial)
  const [revision, setRevision] = useState(0)
  const [save, setSave] = useState<SaveState>({ kind: 'saved', at: changedAt })
  const [theirs, setTheirs] = useState<Theirs | null>(null)
  const [steps, setSteps] = useState({ undo: 0, redo: 0 })
  const latest = useRef(initial)
  const version = useRef(initialVersion)
  const stopped = useRef(false)
  const outline = useRef(initial.outline)
  const roles = useRef(initial.roles)
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null)
  const showing = useRef<ReturnType<typeof setTimeout> | null>(null)
  const saving = useRef<Promise<boolean> | null>(null)
  const history = useRef<{ undo: TemplateContent[]; redo: TemplateContent[]; kind: string; at: number }>({
    undo: [],
    redo: [],
    kind: '',
    at: 0,
  })

  const flush = useCallback(async (): Promise<boolean> => {
    if (timer.current) clearTimeout(timer.current)
    timer.current = null
    if (saving.current) await saving.current
    if (stopped.current) return false
    const sent = latest.current
    const attempt = async () => {
      setSave({ kind: 'saving' })
      try {
        const saved = await call('saveDraft', {
          params: { id },
          body: { version: version.current, content: sent },
        })
        version.current = saved.version
        setSave(latest.current === sent ? { kind: 'saved', at: saved.changedAt } : { kind: 'unsaved' })
        // Whoever opens the draft again begins with what was saved, not with what it was when it was opened first.
        queries.setQueryData<Answer<Api['template']>>(
          ['template', { id }, null],
          (before) =>
            before && {
              ...before,
              draft: sent,
              draftVersion: saved.version,
              changedAt: saved.changedAt,
            },
        )
        void queries.invalidateQueries({ queryKey: ['templates'] })
        // Which columns feed which fields depends on the outline alone.
        if (outline.current !== sent.outline || roles.current !== sent.roles)
          void queries.invalidateQueries({ queryKey: ['mapping'] })
        outline.current = sent.outline
        roles.current = sent.roles
        return true
      } catch (error) {
        const status = error instanceof ProblemError ? error.problem.status : -1
        setSave({ kind: 'fault', text: problemText(error), lasting: status !== 0 })
        if (status === 0) timer.current = setTimeout(() => void flush(), RETRY)
        if (status === 409) {
          stopped.current = true
          const there = await call('template', { params: { id } }).catch(() => null)
          if (there)
            setTheirs({
              content: there.draft,
              version: there.draftVersion,
              by: there.changedBy,
              at: there.changedAt,
            })
        }
        return false
      } finally {
        saving.current = null
      }
    }
    saving.current = attempt()
    return saving.current
  }, [id, queries])

  const put = useCallback(
    (next: TemplateContent, writing = false) => {
      // Where only what stands beside the text has changed, the text stays the editor's: it may have gone on since.
      const sameText = next.document === latest.current.document
      latest.current = next
      // While keys are typed the text is shown by the editor; everything else follows at the first pause.
      if (showing.current) clearTimeout(showing.current)
      // What follows gives way to the next key.
      if (writing)
        showing.current = setTimeout(() => startTransition(() => setContent(latest.current)), FOLLOW)
      else {
        setContent(next)
        if (!sameText) setRevision((before) => before + 1)
      }
      setSave((state) =>
        state.kind === 'unsaved' || (state.kind === 'fault' && state.lasting) ? state : { kind: 'unsaved' },
      )
      if (timer.current) clearTimeout(timer.current)
      if (autosave) timer.current = setTimeout(() => void flush(), PAUSE)
      const { undo, redo } = history.current
      setSteps((before) =>
        before.undo === undo.length && before.redo === redo.length
          ? before
          : { undo: undo.length, redo: redo.length },
      )
    },
    [flush, autosave],
  )

  const change: Change = useCallback(
    (next, kind = '') => {
      const before = latest.current
      const after = next(before)
      if (after === before) return
      const past = history.current
      const now = Date.now()
      if (kind === '' || kind !== past.kind || now - past.at > TOGETHER) {
        past.undo.push(before)
        if (past.undo.length > MOST_STEPS) past.undo.shift()
      }
      past.redo = []
      past.kind = kind
      past.at = now
      put(after, kind === WRITING)
    },
    [put],
  )

  const step = useCallback(
    (from: 'undo' | 'redo') => {
      const past = history.current
      const found = past[from].pop()
      if (!found) return
      past[from === 'undo' ? 'redo' : 'undo'].push(latest.current)
      past.kind = ''
      put(found)
    },
    [put],
  )
  const undo = useCallback(() => step('undo'), [step])
  const redo = useCallback(() => step('redo'), [step])

  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (timer.current || saving.current) event.preventDefault()
    }
    window.addEventListener('beforeunload', warn)
    return () => {
      window.removeEventListener('beforeunload', warn)
      if (showing.current) clearTimeout(showing.current)
      // What was not saved yet is on its way: nobody is to begin with less.
      if (timer.current) {
        queries.removeQueries({ queryKey: ['template', { id }] })
        void flush()
      }
    }
  }, [flush, id, queries])

  /** Ends a conflict: one's own wording goes over theirs, knowingly, or theirs is taken (undo brings one's own back). */
  const settleConflict = useCallback(
    (keep: 'mine' | 'theirs') => {
      if (!theirs) return
      stopped.current = false
      version.current = theirs.version
      setTheirs(null)
      if (keep === 'theirs') change(() => theirs.content)
      setSave({ kind: 'unsaved' })
      void flush()
    },
    [theirs, change, flush],
  )

  /** Saves what is unsaved, then tells the version that is on the server; null where it could not be saved. */
  const settle = useCallback(async (): Promise<number | null> => {
    if (!timer.current && !saving.current) return stopped.current ? null : version.current
    return (await flush()) ? version.current : null
  }, [flush])

  return { content, revision, change, save, settle, undo, redo, steps, theirs, settleConflict }
}
