import { Check, Trash2, X } from 'lucide-react'
import type { RuleTableAnswer } from '#contract/rule.ts'
import { runRuleCase } from '#core/rules/cases.ts'
import type { RuleNames } from '#core/rules/names.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { useCall } from '#web/api/client.ts'
import { shownExample } from './shown-example.ts'

/** Cases that the table has to decide as they say, run on the draft as it stands. */
export function Cases({
  id,
  table,
  names,
  cases,
  editable,
  onShow,
}: {
  readonly id: string
  readonly table: RuleTable
  readonly names: RuleNames
  readonly cases: RuleTableAnswer['cases']
  readonly editable: boolean
  readonly onShow: (rows: readonly number[]) => void
}) {
  const drop = useCall('dropRuleCase')
  if (cases.length === 0)
    return (
      <p className="p-3 text-sm text-soft">
        No case is kept yet. An example of what is found, or the record in view, becomes one with a click;
        each is run before an edition is put in force.
      </p>
    )
  return (
    <ul className="text-sm">
      {cases.map((saved) => {
        const { passed, actual, rows, problem } = runRuleCase(table, saved, names)
        return (
          <li key={saved.id} className="flex items-start gap-2 border-b border-hair/60 px-3 py-2">
            {passed ? (
              <Check size={15} className="mt-0.5 shrink-0 text-moss" aria-label="As it should be" />
            ) : (
              <X size={15} className="mt-0.5 shrink-0 text-brick" aria-label="Not as it should be" />
            )}
            <button className="min-w-0 flex-1 text-left" onClick={() => onShow(rows)}>
              <span className="block">{saved.name}</span>
              <span className="block text-xs text-soft">{shownExample(saved.values, names)}</span>
              <span className={`block text-xs ${passed ? 'text-soft' : 'text-brick'}`}>
                {passed ? '' : `gives ${problem ?? said(actual)}, should give `}
                {said(saved.expected)}
              </span>
            </button>
            {editable && (
              <button
                className="p-0.5 text-soft hover:text-brick"
                aria-label={`Drop the case ${saved.name}`}
                onClick={() => drop.mutate({ params: { id, case: saved.id } })}
              >
                <Trash2 size={14} />
              </button>
            )}
          </li>
        )
      })}
    </ul>
  )
}

const said = (all: readonly string[]): string => all.join(' and ') || 'nobody is asked'
