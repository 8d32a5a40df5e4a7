import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { keysOf } from '#core/keys-of.ts'
import { HIT_POLICIES, type HitPolicy, type RuleTable, type Scope } from '#core/rules/table.ts'
import { Input } from '#web/parts/input.tsx'
import type { TableDraft } from './use-table.ts'

type Scopes = Answer<Api['ruleNames']>['scopes']

const look = 'rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-sm'
/** Each policy by its name in DMN, with what it means. */
const POLICIES = Object.fromEntries(
  Object.entries(HIT_POLICIES).map(([policy, means]) => [policy, `${policy}: ${means}`]),
) as Record<HitPolicy, string>
const WHERE = { shelf: 'Shelf', template: 'Template', packet: 'Packet' } as const

/** What the table is about, and what becomes of several rows, of none, and of what is missing. */
export function Settings({
  table,
  draft,
  scopes,
  editable,
}: {
  readonly table: RuleTable
  readonly draft: TableDraft
  readonly scopes: Scopes
  readonly editable: boolean
}) {
  const { scope } = table
  const change = (made: Partial<RuleTable>) => draft.set({ ...table, ...made })
  const ordered = table.hitPolicy === 'priority' || table.hitPolicy === 'output order'
  return (
    <fieldset
      disabled={!editable}
      className="flex shrink-0 flex-wrap items-center gap-x-5 gap-y-1 border-b border-hair px-4 py-1.5 text-sm"
    >
      <label className="flex items-center gap-1.5">
        <span className="whitespace-nowrap text-soft">About</span>
        <select
          className={`${look} max-w-56`}
          value={scope.kind === 'all' ? 'all' : `${scope.kind} ${scope.id}`}
          onChange={(event) => {
            const [kind, id] = event.target.value.split(' ')
            change({ scope: kind === 'all' ? { kind: 'all' } : ({ kind, id } as Scope) })
          }}
        >
          <option value="all">all agreements</option>
          {(['shelf', 'template', 'packet'] as const).map((kind) => (
            <optgroup key={kind} label={WHERE[kind]}>
              {scopes
                .filter((each) => each.kind === kind)
                .map((each) => (
                  <option key={each.id} value={`${kind} ${each.id}`}>
                    {each.name}
                  </option>
                ))}
            </optgroup>
          ))}
        </select>
      </label>
      <Choice
        label="Where several hold"
        value={table.hitPolicy}
        choices={POLICIES}
        onChoose={(hitPolicy) => change({ hitPolicy })}
      />
      <Choice
        label="Where none does"
        value={table.otherwise}
        choices={{ nothing: 'nobody is asked', fault: 'it must not happen' }}
        onChoose={(otherwise) => change({ otherwise })}
      />
      <Choice
        label="A missing value"
        value={table.missing}
        choices={{ ask: 'is asked for', 'does not hold': 'makes the row not hold' }}
        onChoose={(missing) => change({ missing })}
      />
      <label className="flex items-center gap-1.5">
        <span className="whitespace-nowrap text-soft">Overdue goes to</span>
        <Input
          className="max-w-44 py-0.5"
          list="approver-names"
          placeholder="nobody else"
          value={table.escalateTo}
          onChange={(event) => draft.set({ ...table, escalateTo: event.target.value }, 'escalate')}
        />
      </label>
      {ordered && (
        <label className="flex items-center gap-1.5">
          <span className="whitespace-nowrap text-soft">Highest first</span>
          <Input
            className="w-72 py-0.5"
            placeholder="operations director; finance; legal"
            value={table.priorities.join('; ')}
            onChange={(event) =>
              draft.set(
                { ...table, priorities: event.target.value.split(';').map((each) => each.trimStart()) },
                'priorities',
              )
            }
          />
        </label>
      )}
    </fieldset>
  )
}

/** One setting of a few, said in words. */
function Choice<T extends string>({
  label,
  value,
  choices,
  onChoose,
}: {
  readonly label: string
  readonly value: T
  readonly choices: Readonly<Record<T, string>>
  readonly onChoose: (chosen: T) => void
}) {
  return (
    <label className="flex items-center gap-1.5">
      <span className="whitespace-nowrap text-soft">{label}</span>
      <select
        className={`${look} max-w-52`}
        value={value}
        title={choices[value]}
        onChange={(event) => onChoose(event.target.value as T)}
      >
        {keysOf(choices).map((each) => (
          <option key={each} value={each}>
            {choices[each]}
          </option>
        ))}
      </select>
    </label>
  )
}
