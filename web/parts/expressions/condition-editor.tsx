import { useMemo, useState } from 'react'
import type { NameTypes } from '#core/expression/check.ts'
import { expressionToRows, rowsToExpression } from '#core/condition/rows.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import type { Field } from '#core/outline/field.ts'
import { ConditionBuilder } from './condition-builder.tsx'
import { ExpressionEditor } from './expression-editor.tsx'

/** A condition as it is being written: its text, and what is wrong with it. */
export function useCondition(initial: string, fields: readonly Field[], names: NameTypes) {
  const [text, setText] = useState(initial)
  const problem = useMemo(
    () => (text.trim() ? (expressionFaults(text, names)[0] ?? null) : null),
    [text, names],
  )
  return { text, setText, problem, fields, names }
}

interface Props {
  readonly condition: ReturnType<typeof useCondition>
  readonly label: string
  readonly placeholder: string
  readonly disabled?: boolean
  readonly autoFocus?: boolean
  /** Enter, where nothing is wrong with the condition. */
  readonly onEnter: () => void
}

/** A condition by rows and as an expression, each the view of the other. */
export function ConditionEditor({
  condition: { text, setText, problem, fields, names },
  label,
  placeholder,
  disabled = false,
  autoFocus = false,
  onEnter,
}: Props) {
  const types = useMemo(() => new Map(fields.map(({ name, type }) => [name, type])), [fields])
  const rows = useMemo(() => expressionToRows(text), [text])
  return (
    <>
      {rows ? (
        <fieldset disabled={disabled}>
          <ConditionBuilder
            group={rows}
            fields={fields}
            onChange={(group) => setText(rowsToExpression(group, types))}
          />
        </fieldset>
      ) : (
        <p className="text-xs text-soft">This is more than rows can say; it stays an expression.</p>
      )}
      <div className="mt-2">
        <ExpressionEditor
          value={text}
          names={names}
          problem={problem}
          label={label}
          placeholder={placeholder}
          autoFocus={autoFocus}
          onChange={setText}
          onEnter={() => !problem && !disabled && onEnter()}
        />
      </div>
    </>
  )
}
