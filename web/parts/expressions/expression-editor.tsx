import {
  autocompletion,
  type CompletionContext,
  completionKeymap,
  type CompletionResult,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { HighlightStyle, LRLanguage, syntaxHighlighting } from '@codemirror/language'
import { setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, keymap, placeholder as placeholderText } from '@codemirror/view'
import { parser } from '@bpmn-io/lezer-feel'
import { tags } from '@lezer/highlight'
import { useEffect, useMemo, useRef, useState } from 'react'
import { callAt, signatureOf, suggestionsAt, wordAt } from '#core/expression/complete.ts'
import type { NameTypes } from '#core/expression/check.ts'
import { builtIns } from '#core/expression/functions.ts'
import { meantBy } from '#core/expression/mend.ts'
import type { ExpressionProblem } from '#core/expression/syntax.ts'

const language = LRLanguage.define({ parser: parser.configure({ top: 'Expression' }) })

const colours = HighlightStyle.define([
  { tag: tags.string, color: 'var(--color-moss)' },
  { tag: tags.number, color: 'var(--color-ochre)' },
  { tag: tags.bool, color: 'var(--color-ochre)' },
  { tag: tags.keyword, color: 'var(--color-ink)', fontWeight: '600' },
  { tag: tags.variableName, color: 'var(--color-petrol)' },
])

const theme = EditorView.theme({
  '&': {
    fontSize: '13px',
    backgroundColor: 'var(--color-sheet)',
    border: '1px solid var(--color-hair)',
    borderRadius: '2px',
  },
  '&.cm-focused': { outline: '2px solid var(--color-petrol)', outlineOffset: '1px' },
  '.cm-content': {
    fontFamily: 'ui-monospace, monospace',
    padding: '5px 2px',
    caretColor: 'var(--color-ink)',
    minHeight: '44px',
  },
  '.cm-cursor': { borderLeftColor: 'var(--color-ink)' },
  '.cm-line': { padding: '0 6px' },
  '.cm-tooltip': {
    backgroundColor: 'var(--color-sheet)',
    border: '1px solid var(--color-hair)',
    color: 'var(--color-ink)',
    zIndex: '60',
  },
  '.cm-tooltip-autocomplete > ul > li': { padding: '2px 8px', fontFamily: 'var(--font-sans)' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--color-petrol-wash)',
    color: 'var(--color-ink)',
  },
  '.cm-completionInfo': { padding: '6px 8px', maxWidth: '260px', whiteSpace: 'pre-wrap' },
  '.cm-completionDetail': { color: 'var(--color-soft)', fontStyle: 'normal' },
  '.cm-placeholder': { color: 'var(--color-soft)' },
  '.cm-lintRange-error': { backgroundImage: 'none', textDecoration: 'underline wavy var(--color-brick) 1px' },
})

interface Props {
  readonly value: string
  readonly names: NameTypes
  readonly problem: ExpressionProblem | null
  readonly label: string
  readonly placeholder?: string | undefined
  readonly autoFocus?: boolean | undefined
  readonly onChange: (value: string) => void
  readonly onEnter?: (() => void) | undefined
}

/** An expression as it is typed: fields and functions are offered, the fault is drawn under its word, calls are explained. */
export function ExpressionEditor({
  value,
  names,
  problem,
  label,
  placeholder,
  autoFocus,
  onChange,
  onEnter,
}: Props) {
  const host = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView | null>(null)
  const [call, setCall] = useState<ReturnType<typeof callAt>>(null)
  const now = useRef({ names, onChange, onEnter })
  useEffect(() => {
    now.current = { names, onChange, onEnter }
  })
  const first = useRef({ value, label, placeholder, autoFocus })
  useEffect(() => {
    const complete = (context: CompletionContext): CompletionResult | null => {
      const text = context.state.doc.toString()
      const word = wordAt(text, context.pos)
      if (!word.text && !context.explicit) return null
      return {
        from: word.from,
        options: suggestionsAt(text, context.pos, now.current.names).map(
          ({ label: name, kind, insert, at, detail, help }, i) => ({
            label: name,
            detail,
            ...(help ? { info: help } : {}),
            type: kind,
            boost: -i / 100,
            apply: (editor: EditorView, _completion: unknown, from: number, to: number) =>
              editor.dispatch({ changes: { from, to, insert }, selection: { anchor: from + at } }),
          }),
        ),
        filter: false,
      }
    }
    const editor = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: first.current.value,
        selection: { anchor: first.current.value.length },
        extensions: [
          history(),
          language,
          syntaxHighlighting(colours),
          autocompletion({ override: [complete], icons: false }),
          keymap.of([
            {
              key: 'Enter',
              run: () => {
                now.current.onEnter?.()
                return now.current.onEnter !== undefined
              },
            },
            ...completionKeymap,
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': first.current.label }),
          placeholderText(first.current.placeholder ?? ''),
          theme,
          EditorView.updateListener.of((update) => {
            if (update.docChanged) now.current.onChange(update.state.doc.toString())
            if (update.docChanged || update.selectionSet)
              setCall(callAt(update.state.doc.toString(), update.state.selection.main.head))
          }),
        ],
      }),
    })
    view.current = editor
    if (first.current.autoFocus) editor.focus()
    return () => editor.destroy()
  }, [])
  useEffect(() => {
    const editor = view.current
    if (editor && editor.state.doc.toString() !== value)
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } })
  }, [value])
  useEffect(() => {
    const editor = view.current
    if (!editor) return
    const end = editor.state.doc.length
    editor.dispatch(
      setDiagnostics(
        editor.state,
        problem && end > 0
          ? [
              {
                from: Math.min(problem.from, end),
                to: Math.min(Math.max(problem.to, problem.from + 1), end),
                severity: 'error',
                message: problem.message,
              },
            ]
          : [],
      ),
    )
  }, [problem, value])
  const known = call && builtIns.get(call.name)
  const meant = useMemo(() => (problem ? meantBy(value, names) : null), [problem, value, names])
  return (
    <div>
      <div ref={host} />
      {known && (
        <p className="mt-1 text-xs text-soft" aria-live="polite">
          <code className="text-ink">{signatureOf(call.name)}</code> {known.help}
          {known.parameters[Math.min(call.parameter, known.parameters.length - 1)] && (
            <> Now: {known.parameters[Math.min(call.parameter, known.parameters.length - 1)]}.</>
          )}
        </p>
      )}
      {problem && (
        <p role="alert" className="mt-1 text-xs text-brick">
          {problem.message}
        </p>
      )}
      {meant && (
        <p className="mt-1 text-xs">
          <button type="button" className="text-petrol underline" onClick={() => onChange(meant)}>
            Write
          </button>{' '}
          <code>{meant}</code>
        </p>
      )}
    </div>
  )
}
