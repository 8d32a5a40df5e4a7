import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { HIT_POLICIES } from '#core/rules/table.ts'
import type { HitPolicy, RuleTable, Scope } from '#core/rules/table.ts'
import { Input } from '#web/parts/input.tsx'
import type { TableKeeper } from './keeper.ts'

type Scopes = Answer<Api['ruleNames']>['scopes']

const look = 'rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-sm'
const WHERE = { shelf: 'Shelf', template: 'Template', packet: 'Packet' } as const

/** What the table is about, and what becomes of several rows, of none, and of what is missing. */
export function Settings({
  table,
  keeper,
  scopes,
  editable,
}: {
  readonly table: RuleTable
  readonly keeper: TableKeeper
  readonly scopes: Scopes
  readonly editable: boolean
}) {
  const { scope } = table
  const change = (made: Partial<RuleTable>) => keeper.change({ ...table, ...made })
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
      <label className="flex items-center gap-1.5">
        <span className="whitespace-nowrap text-soft">Where several hold</span>
        <select
          className={`${look} max-w-52`}
          value={table.hitPolicy}
          title={HIT_POLICIES[table.hitPolicy]}
          onChange={(event) => change({ hitPolicy: event.target.value as HitPolicy })}
        >
          {(Object.keys(HIT_POLICIES) as HitPolicy[]).map((policy) => (
            <option key={policy} value={policy}>
              {policy}: {HIT_POLICIES[policy]}
            </option>
          ))}
        </select>
      </label>
      <label className="flex items-center gap-1.5">
        <span className="whitespace-nowrap text-soft">Where none does</span>
        <select
          className={look}
          value={table.otherwise}
          onChange={(event) => change({ otherwise: event.target.value as RuleTable['otherwise'] })}
        >
          <option value="nothing">nobody is asked</option>
          <option value="fault">it must not happen</option>
        </select>
      </label>
      <label className="flex items-center gap-1.5">
        <span className="whitespace-nowrap text-soft">A missing value</span>
        <select
          className={look}
          value={table.missing}
          onChange={(event) => change({ missing: event.target.value as RuleTable['missing'] })}
        >
          <option value="ask">is asked for</option>
          <option value="does not hold">makes the row not hold</option>
        </select>
      </label>
      <label className="flex items-center gap-1.5">
        <span className="whitespace-nowrap text-soft">Overdue goes to</span>
        <Input
          className="max-w-44 py-0.5"
          list="approver-names"
          placeholder="nobody else"
          value={table.escalateTo}
          onChange={(event) => keeper.change({ ...table, escalateTo: event.target.value }, 'escalate')}
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
              keeper.change(
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
