import { useMemo, useState } from 'react'
import { nameTypes } from '#core/outline/field.ts'
import type { Field } from '#core/outline/field.ts'
import { expressionToRows, rowsToExpression } from '#core/expression/rows.ts'
import { expressionFaults } from '#core/merge/faults.ts'
import { Button } from '#web/parts/button.tsx'
import { ConditionBuilder } from '#web/parts/condition-builder.tsx'
import { ExpressionEditor } from '#web/parts/expression-editor.tsx'
import { plural } from '#web/parts/when.tsx'
import { useRun } from '../use-run.ts'
import type { SectionProps } from './run-setup.tsx'

/** Which rows are taken, by rows of comparisons or as an expression over the columns. */
export function RowRule({ setup, locked, change }: SectionProps) {
  const { rows } = useRun()
  const saved = setup.setup.rule ?? ''
  const [text, setText] = useState(saved)
  const [open, setOpen] = useState(saved !== '')
  const fields = useMemo(() => setup.columnFields as readonly Field[], [setup.columnFields])
  const names = useMemo(() => nameTypes(fields), [fields])
  const types = useMemo(() => new Map(fields.map(({ name, type }) => [name, type])), [fields])
  const problem = useMemo(
    () => (text.trim() ? (expressionFaults(text, names)[0] ?? null) : null),
    [text, names],
  )
  const group = useMemo(() => expressionToRows(text), [text])
  const skipped = rows.filter(({ state }) => state === 'skipped').length
  const set = (rule: string | null) => change({ setup: { ...setup.setup, rule } })
  if (!open)
    return (
      <p className="flex items-center gap-3 text-sm">
        All rows are taken.
        {!locked && <Button onClick={() => setOpen(true)}>Only some rows</Button>}
      </p>
    )
  return (
    <div className="max-w-xl">
      {group && (
        <fieldset disabled={locked}>
          <ConditionBuilder
            group={group}
            fields={fields}
            onChange={(next) => setText(rowsToExpression(next, types))}
          />
        </fieldset>
      )}
      <div className="mt-2">
        <ExpressionEditor
          value={text}
          names={names}
          problem={problem}
          label="The row rule as an expression"
          placeholder='status = "agreed" and acres > 20'
          onChange={setText}
          onEnter={() => !problem && !locked && set(text.trim() || null)}
        />
      </div>
      {setup.ruleProblem && <p className="mt-1 text-sm text-brick">{setup.ruleProblem}</p>}
      <div className="mt-2 flex items-center gap-2">
        <Button
          kind="main"
          disabled={locked || problem !== null || text.trim() === saved}
          onClick={() => set(text.trim() || null)}
        >
          Set
        </Button>
        <Button
          kind="quiet"
          disabled={locked}
          onClick={() => {
            setText('')
            setOpen(false)
            if (saved) set(null)
          }}
        >
          All rows
        </Button>
        {saved && (
          <span className="text-sm text-soft">
            {skipped ? `${plural(skipped, 'row')} left out.` : 'It leaves no row out.'}
          </span>
        )}
      </div>
    </div>
  )
}
