import { useMemo, useState } from 'react'
import { type Field, nameTypes } from '#core/outline/field.ts'
import { Button } from '#web/parts/button.tsx'
import { ConditionEditor, useCondition } from '#web/parts/expressions/condition-editor.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useRun } from '#web/areas/runs/open-run/use-run.ts'
import type { SectionProps } from './section.ts'

/** Which rows are taken, by rows of comparisons or as an expression over the columns. */
export function RowRule({ setup, locked, change }: SectionProps) {
  const { rows } = useRun()
  const saved = setup.setup.rule ?? ''
  const [open, setOpen] = useState(saved !== '')
  const fields = useMemo(() => setup.columnFields as readonly Field[], [setup.columnFields])
  const names = useMemo(() => nameTypes(fields), [fields])
  const condition = useCondition(saved, fields, names)
  const { text, setText, problem } = condition
  const skipped = rows.filter(({ state }) => state === 'skipped').length
  const set = (rule: string | null) => change((now) => ({ setup: { ...now.setup, rule } }))
  if (!open)
    return (
      <p className="flex items-center gap-3 text-sm">
        All rows are taken.
        {!locked && <Button onClick={() => setOpen(true)}>Only some rows</Button>}
      </p>
    )
  return (
    <div className="max-w-xl">
      <ConditionEditor
        condition={condition}
        label="The row rule as an expression"
        placeholder='status = "agreed" and acres > 20'
        disabled={locked}
        onEnter={() => set(text.trim() || null)}
      />
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
