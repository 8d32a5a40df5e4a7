import { useMemo } from 'react'
import { explain } from '#core/expression/explain.ts'
import { compileExpression } from '#core/expression/compile.ts'
import { inWordsOf } from '#core/merge/fill.ts'
import { completeRecord } from '#core/outline/record.ts'
import { Button } from '#web/parts/button.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useReadyTemplate, useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { useSettled } from '#web/parts/use-settled.ts'
import { ConditionEditor, useCondition } from '#web/parts/expressions/condition-editor.tsx'
import { useSurvey } from './use-survey.ts'

interface Props {
  readonly initial: string
  /** The list whose items the passage repeats with, where it does. */
  readonly repeat: string | null
  readonly title: string
  readonly clearLabel: string
  readonly onSet: (condition: string | null) => void
  readonly onCancel?: () => void
}

/** A condition by rows or as an expression, each the view of the other, with what it means for the source in the proof. */
export function ConditionForm({ initial, repeat, title, clearLabel, onSet, onCancel }: Props) {
  const { namesIn, fieldsIn } = useStudio()
  const names = useMemo(() => namesIn(repeat), [namesIn, repeat])
  const fields = useMemo(() => fieldsIn(repeat), [fieldsIn, repeat])
  const condition = useCondition(initial, fields, names)
  const { text, problem } = condition
  return (
    <form
      className="w-120 max-w-full"
      onSubmit={(event) => {
        event.preventDefault()
        if (!problem) onSet(text.trim() || null)
      }}
    >
      <p className="mb-2 text-sm font-semibold">{title}</p>
      <ConditionEditor
        condition={condition}
        label="The condition as an expression"
        placeholder="total &gt; 400 and not(renewed)"
        autoFocus
        onEnter={() => onSet(text.trim() || null)}
      />
      {!problem && text.trim() && repeat === null && <Effect text={text} />}
      <div className="mt-3 flex justify-between">
        <Button kind="quiet" onClick={() => onSet(null)}>
          {clearLabel}
        </Button>
        <span className="flex gap-2">
          {onCancel && <Button onClick={onCancel}>Cancel</Button>}
          <Button kind="main" type="submit" disabled={problem !== null || !text.trim()}>
            Set
          </Button>
        </span>
      </div>
    </form>
  )
}

/** For how many rows of the source a condition holds, and why it does or does not for the one in the proof. */
function Effect({ text }: { readonly text: string }) {
  const { proof } = useStudio()
  const ready = useReadyTemplate()
  const survey = useSurvey([useSettled(text, 250)])
  const count = survey.data?.conditions[0]
  const reason = useMemo(() => {
    const compiled = compileExpression(text)
    if (!compiled.ok || !ready || !proof) return null
    const { context } = completeRecord(ready.outline, proof.data)
    const holds = compiled.expression.evaluate(context)
    return {
      holds,
      because: explain(compiled.expression.syntax, text, context, inWordsOf(ready)),
    }
  }, [text, ready, proof])
  return (
    <div className="mt-2 text-xs" aria-live="polite">
      {survey.data && count && (
        <p>
          <span className="font-semibold">
            True for {count.holds} of {plural(survey.data.rows, 'row')}
          </span>
          {count.undecided > 0 && <span className="text-ochre">, undecided for {count.undecided}</span>}
        </p>
      )}
      {reason && proof && (
        <p className="text-soft">
          {proof.rowLabel}: {reason.holds === true ? 'true' : reason.holds === false ? 'false' : 'undecided'},
          because {reason.because}
        </p>
      )}
    </div>
  )
}
