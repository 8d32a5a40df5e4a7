import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import type { TemplateContent } from '#core/document/template.ts'
import { call, ProblemError, problemText } from '#web/frame/client.ts'

export type SaveState =
  | { readonly kind: 'saved'; readonly at: string }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'fault'; readonly text: string; readonly lasting: boolean }

const PAUSE = 800
const RETRY = 4000

/**
 * The draft as it is being written, saved by itself after a pause in typing. A lost connection is tried again; a save
 * that somebody else's later one forbids is told, and nothing is overwritten on either side.
 */
export function useDraft(id: string, initial: TemplateContent, initialVersion: number, changedAt: string) {
  const queries = useQueryClient()
  const [content, setContent] = useState(initial)
  const [save, setSave] = useState<SaveState>({ kind: 'saved', at: changedAt })
  const latest = useRef(initial)
  const version = useRef(initialVersion)
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null)
  const saving = useRef<Promise<boolean> | null>(null)

  const flush = useCallback(async (): Promise<boolean> => {
    if (timer.current) clearTimeout(timer.current)
    timer.current = null
    if (saving.current) await saving.current
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
        void queries.invalidateQueries({ queryKey: ['templates'] })
        return true
      } catch (error) {
        const lost = error instanceof ProblemError && error.problem.status === 0
        setSave({ kind: 'fault', text: problemText(error), lasting: !lost })
        if (lost) timer.current = setTimeout(() => void flush(), RETRY)
        return false
      } finally {
        saving.current = null
      }
    }
    saving.current = attempt()
    return saving.current
  }, [id, queries])

  const change = useCallback(
    (next: (before: TemplateContent) => TemplateContent) => {
      latest.current = next(latest.current)
      setContent(latest.current)
      setSave((state) => (state.kind === 'fault' && state.lasting ? state : { kind: 'unsaved' }))
      if (timer.current) clearTimeout(timer.current)
      timer.current = setTimeout(() => void flush(), PAUSE)
    },
    [flush],
  )

  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (timer.current || saving.current) event.preventDefault()
    }
    window.addEventListener('beforeunload', warn)
    return () => {
      window.removeEventListener('beforeunload', warn)
      if (timer.current) void flush()
    }
  }, [flush])

  /** Saves what is unsaved, then tells the version that is on the server; null where it could not be saved. */
  const settle = useCallback(async (): Promise<number | null> => {
    if (!timer.current && !saving.current) return version.current
    return (await flush()) ? version.current : null
  }, [flush])

  return { content, change, save, settle }
}
