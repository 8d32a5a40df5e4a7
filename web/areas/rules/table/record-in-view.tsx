import { useQuery } from '@tanstack/react-query'
import { ChevronLeft, ChevronRight } from 'lucide-react'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { compileExpression } from '#core/expression/compile.ts'
import type { Context, Value } from '#core/expression/values/value.ts'
import { saidOfValues } from '#core/rules/cases.ts'
import { literal } from '#core/rules/analysis/dimension.ts'
import { chosen, rowsThatHold } from '#core/rules/decide.ts'
import type { RuleNames } from '#core/rules/names.ts'
import type { RuleTable, Scope } from '#core/rules/table.ts'
import { call, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { count } from '#web/parts/signs/when.tsx'

type Seen = Answer<Api['ruleRecords']>['records'][number]

const AT_ONCE = 25

/** Agreements that the table is about, one after the other: those of this page, the newest first. */
export function useRecordInView(scope: Scope) {
  const [at, setAt] = useState(0)
  const offset = Math.floor(at / AT_ONCE) * AT_ONCE
  const records = useQuery({
    queryKey: ['ruleRecords', scope, offset],
    queryFn: ({ signal }) => call('ruleRecords', { body: { scope, offset }, signal }),
    placeholderData: (before) => before,
  })
  const total = records.data?.total ?? 0
  return {
    record: records.data?.records[at - offset] ?? null,
    at,
    total,
    pending: records.isPending,
    step: (by: number) => setAt((now) => Math.max(0, Math.min(total - 1, now + by))),
  }
}

/** Values by dotted names as the groups that an expression reads. */
function contextOf({ values }: Seen): Context {
  const context = new Map<string, Value>()
  for (const [name, text] of Object.entries(values)) {
    const compiled = compileExpression(text)
    if (!compiled.ok) continue
    const parts = name.split('.')
    let at = context
    for (const part of parts.slice(0, -1)) {
      const inner = at.get(part)
      const group = inner instanceof Map ? (inner as Map<string, Value>) : new Map<string, Value>()
      at.set(part, group)
      at = group
    }
    at.set(parts.at(-1)!, compiled.expression.evaluate(new Map()))
  }
  return context
}

/** The rows of a table that count for a record, by their places. */
export function useRowsFor(table: RuleTable, record: Seen | null, names: RuleNames): ReadonlySet<number> {
  const context = useMemo(() => (record ? contextOf(record) : null), [record])
  return useMemo(() => {
    if (!record || !context) return new Set<number>()
    const lacking = new Set(record.lacking)
    const holding = rowsThatHold(table, { context, knows: (name) => !lacking.has(name), words: names.words })
    const allowed = chosen(table, holding)
    return new Set(allowed.ok ? allowed.rows : holding)
  }, [table, record, context, names])
}

/** The record in view, what each column asks of it, and what the table says. */
export function RecordInView({
  id,
  table,
  names,
  lit,
  view,
  editable,
}: {
  readonly id: string
  readonly table: RuleTable
  readonly names: RuleNames
  readonly lit: ReadonlySet<number>
  readonly view: ReturnType<typeof useRecordInView>
  readonly editable: boolean
}) {
  const say = useNotice()
  const keep = useCall('keepRuleCase', ({ name }) => say(`Kept as the case “${name}”.`))
  const { record, at, total, step } = view
  const asked = useMemo(() => {
    if (!record) return []
    const context = contextOf(record)
    return table.inputs.map(({ expression, label }) => {
      const compiled = compileExpression(expression)
      const value = compiled.ok ? compiled.expression.evaluate(context) : null
      return {
        expression,
        label: label || names.words.label(expression),
        value,
        shown: names.words.show(value, expression),
      }
    })
  }, [record, table.inputs, names])
  if (view.pending) return <p className="p-3 text-sm text-soft">Looking for agreements …</p>
  if (!record)
    return <p className="p-3 text-sm text-soft">There is no agreement yet that this table is about.</p>
  const values = Object.fromEntries(
    asked.flatMap(({ expression, value }) => (value === null ? [] : [[expression, literal(value)]])),
  )
  return (
    <div className="p-3 text-sm">
      <div className="flex items-center gap-1">
        <button
          aria-label="Record before"
          className="p-1 text-soft hover:text-ink disabled:opacity-40"
          disabled={at === 0}
          onClick={() => step(-1)}
        >
          <ChevronLeft size={15} />
        </button>
        <span className="text-soft tabular-nums">
          {count(at + 1)} of {count(total)}
        </span>
        <button
          aria-label="Record after"
          className="p-1 text-soft hover:text-ink disabled:opacity-40"
          disabled={at >= total - 1}
          onClick={() => step(1)}
        >
          <ChevronRight size={15} />
        </button>
      </div>
      <p className="mt-1">
        <Link to={`/agreements/${record.agreement}`} className="text-petrol underline">
          {record.number}
        </Link>{' '}
        {record.name}
      </p>
      <dl className="mt-2 grid grid-cols-[minmax(6rem,auto)_1fr] gap-x-3 gap-y-0.5">
        {asked.map(({ expression, label, shown }) => (
          <div key={expression} className="contents">
            <dt className="text-soft">{label}</dt>
            <dd>{shown}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-2">
        {lit.size === 0 ? (
          'No row holds for it.'
        ) : (
          <>
            {lit.size === 1 ? 'Row' : 'Rows'} {[...lit].map((row) => row + 1).join(', ')}{' '}
            {lit.size === 1 ? 'holds' : 'hold'} for it.
          </>
        )}
      </p>
      {editable && (
        <button
          className="mt-1 text-petrol underline"
          onClick={() =>
            keep.mutate({
              params: { id },
              body: {
                name: record.name.slice(0, 180),
                values,
                expected: [...saidOfValues(table, values, names).said],
              },
            })
          }
        >
          Keep as a case
        </button>
      )}
    </div>
  )
}
