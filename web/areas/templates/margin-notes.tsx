import type { Editor } from '@tiptap/react'
import { Popover } from 'radix-ui'
import { useEffect, useMemo, useState } from 'react'
import type { RefObject } from 'react'
import { checkExpression } from '#core/expression/check.ts'
import type { NameTypes } from '#core/expression/check.ts'
import { compileExpression } from '#core/expression/compile.ts'
import type { ExpressionProblem } from '#core/expression/syntax.ts'
import { Button } from '#web/parts/button.tsx'
import { TextArea } from '#web/parts/input.tsx'

interface Passage {
  readonly id: string
  readonly position: number
  readonly condition: string
  readonly top: number
  readonly height: number
}

/** First fault of a condition over these fields; null where it is sound. */
export function conditionProblem(text: string, names: NameTypes): ExpressionProblem | null {
  const compiled = compileExpression(text)
  return compiled.ok
    ? (checkExpression(compiled.expression.syntax, names, 'boolean')[0] ?? null)
    : compiled.problem
}

function findPassages(editor: Editor, page: HTMLElement): Passage[] {
  const found: Passage[] = []
  const top = page.getBoundingClientRect().top
  editor.state.doc.descendants((node, position) => {
    const condition = node.attrs['condition'] as string | null | undefined
    if (typeof condition !== 'string') return
    const element = editor.view.nodeDOM(position)
    if (!(element instanceof HTMLElement)) return
    const box = element.getBoundingClientRect()
    found.push({ id: String(node.attrs['id']), position, condition, top: box.top - top, height: box.height })
  })
  return found
}

/** What the machine does with a passage, level with it in the margin: its condition, with a bracket along the passage. */
export function MarginNotes({
  editor,
  page,
  names,
  dropped,
}: {
  readonly editor: Editor
  readonly page: RefObject<HTMLElement | null>
  readonly names: NameTypes
  readonly dropped: ReadonlySet<string>
}) {
  const [passages, setPassages] = useState<readonly Passage[]>([])
  useEffect(() => {
    let frame = 0
    const place = () => {
      cancelAnimationFrame(frame)
      frame = requestAnimationFrame(
        () => page.current && !editor.isDestroyed && setPassages(findPassages(editor, page.current)),
      )
    }
    place()
    editor.on('update', place)
    const observer = new ResizeObserver(place)
    if (page.current) observer.observe(page.current)
    return () => {
      cancelAnimationFrame(frame)
      editor.off('update', place)
      observer.disconnect()
    }
  }, [editor, page])
  return (
    <div className="absolute inset-y-0 left-0 w-40" aria-label="Margin notes">
      {passages.map((passage) => (
        <Note
          key={passage.id}
          passage={passage}
          editor={editor}
          names={names}
          dropped={dropped.has(passage.id)}
        />
      ))}
    </div>
  )
}

function Note({
  passage,
  editor,
  names,
  dropped,
}: {
  readonly passage: Passage
  readonly editor: Editor
  readonly names: NameTypes
  readonly dropped: boolean
}) {
  const problem = useMemo(() => conditionProblem(passage.condition, names), [passage.condition, names])
  const set = (condition: string | null) =>
    editor.view.dispatch(editor.state.tr.setNodeAttribute(passage.position, 'condition', condition))
  const tone = problem ? 'text-brick' : dropped ? 'text-soft' : 'text-petrol'
  return (
    <div className="absolute flex w-full justify-end" style={{ top: passage.top, height: passage.height }}>
      <Popover.Root>
        <Popover.Trigger asChild>
          <button
            className={`max-h-full self-start overflow-hidden pr-2 text-right font-serif text-xs leading-snug wrap-anywhere italic hover:underline ${tone}`}
          >
            only where {passage.condition}
            {problem ? (
              <span className="block not-italic">{problem.message}</span>
            ) : (
              dropped && <span className="block not-italic">dropped in this row</span>
            )}
          </button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            side="left"
            align="start"
            sideOffset={8}
            className="z-40 w-96 border border-hair bg-paper p-4"
          >
            <ConditionForm initial={passage.condition} names={names} onSet={set} />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <span
        aria-hidden
        className={`w-1.5 shrink-0 border-y border-l ${problem ? 'border-brick' : 'border-soft'}`}
      />
    </div>
  )
}

/** A condition as an expression, checked while it is typed; the fault is shown under the word it concerns. */
export function ConditionForm({
  initial,
  names,
  onSet,
}: {
  readonly initial: string
  readonly names: NameTypes
  readonly onSet: (condition: string | null) => void
}) {
  const [text, setText] = useState(initial)
  const problem = text.trim() ? conditionProblem(text, names) : null
  const known = [...names].filter(([, type]) => type !== 'list').slice(0, 60)
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        if (!problem) onSet(text.trim() || null)
      }}
    >
      <label className="block text-sm font-semibold" htmlFor="condition">
        This passage stands only where
      </label>
      <TextArea
        id="condition"
        autoFocus
        rows={2}
        value={text}
        aria-invalid={problem !== null}
        onChange={(event) => setText(event.target.value)}
        className="mt-1 font-mono"
        placeholder="land.leased and colonies >= 400"
      />
      {problem && (
        <div role="alert" className="text-xs text-brick">
          <pre className="overflow-hidden font-mono whitespace-pre" aria-hidden>
            {text.slice(0, 60)}
            {'\n'}
            {' '.repeat(Math.min(problem.from, 60)) +
              '^'.repeat(Math.max(1, Math.min(problem.to, 60) - problem.from))}
          </pre>
          {problem.message}
        </div>
      )}
      <details className="mt-2 text-sm text-soft">
        <summary>Fields</summary>
        <div className="mt-1 flex max-h-32 flex-wrap gap-1 overflow-auto">
          {known.map(([name]) => (
            <button
              key={name}
              type="button"
              className="rounded-sm bg-petrol-wash px-1.5 text-petrol"
              onClick={() => setText((before) => `${before.trimEnd()}${before.trim() ? ' ' : ''}${name}`)}
            >
              {name}
            </button>
          ))}
        </div>
      </details>
      <div className="mt-3 flex justify-between">
        <Popover.Close asChild>
          <Button kind="quiet" onClick={() => onSet(null)}>
            Always
          </Button>
        </Popover.Close>
        <Popover.Close asChild>
          <Button kind="main" disabled={problem !== null || !text.trim()} onClick={() => onSet(text.trim())}>
            Set
          </Button>
        </Popover.Close>
      </div>
    </form>
  )
}
