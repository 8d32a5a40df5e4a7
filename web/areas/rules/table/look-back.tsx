import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { Link } from 'react-router'
import type { LookBack, RuleTableContent } from '#contract/rule.ts'
import { approverFigures, weekFigures } from '#core/rules/look-back.ts'
import type { RuleTable } from '#core/rules/table.ts'
import { call, useAnswer } from '#web/api/client.ts'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { count, plural } from '#web/parts/signs/when.tsx'
import { WeekChart } from './week-chart.tsx'

/** The draft against agreements that were made, or a run in the making: who would be asked, and what that changes. */
export function LookBackView({ id, table }: { readonly id: string; readonly table: RuleTable }) {
  const [over, setOver] = useState('365')
  const runs = useAnswer('runs')
  const run = over.startsWith('run ') ? over.slice(4) : null
  const since = run || over === 'all' ? null : dayBefore(Number(over))
  const looked = useQuery({
    queryKey: ['lookBack', id, table, run, since],
    queryFn: ({ signal }) =>
      call('lookBack', { params: { id }, body: { draft: table as RuleTableContent, run, since }, signal }),
  })
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 pt-3 pb-10">
      <label className="flex items-center gap-2 text-sm">
        <span className="text-soft">The draft over</span>
        <select
          aria-label="Looked back over"
          className="rounded-sm border border-hair bg-sheet px-1.5 py-0.5"
          value={over}
          onChange={(event) => setOver(event.target.value)}
        >
          <option value="90">agreements of the last quarter</option>
          <option value="365">agreements of the last year</option>
          <option value="all">all agreements</option>
          <optgroup label="A run">
            {runs.data?.slice(0, 20).map((each) => (
              <option key={each.id} value={`run ${each.id}`}>
                {each.name}
              </option>
            ))}
          </optgroup>
        </select>
      </label>
      {looked.isPending ? (
        <Loading label="Looking back" />
      ) : looked.isError ? (
        <Failed error={looked.error} retry={() => void looked.refetch()} />
      ) : looked.data.agreements.length === 0 ? (
        <Empty title="There is nothing in that time that this table is about" />
      ) : (
        <Looked data={looked.data} isRun={run !== null} />
      )}
    </div>
  )
}

const dayBefore = (days: number): string =>
  new Date(Date.now() - days * 86_400_000).toISOString().slice(0, 10)

interface Opened {
  readonly what: string
  readonly ids: readonly string[]
}

function Looked({ data, isRun }: { readonly data: LookBack; readonly isRun: boolean }) {
  const [opened, setOpened] = useState<Opened | null>(null)
  const { agreements, pace } = data
  const figures = useMemo(() => approverFigures(agreements), [agreements])
  const weeks = useMemo(() => weekFigures(agreements), [agreements])
  const asked = agreements.filter(({ draft }) => draft.length > 0)
  const changed = agreements.filter(({ draft, inForce }) => draft.join('|') !== inForce.join('|'))
  const undecided = agreements.filter(({ problem }) => problem !== null)
  const noun = isRun ? 'row' : 'agreement'
  const figure = (what: string, ids: readonly string[]) => (
    <Figure what={what} ids={ids} onOpen={setOpened} open={opened?.what === what} />
  )
  return (
    <>
      <p className="mt-3 text-sm">
        Of {plural(agreements.length, noun)},{' '}
        {figure(
          'asked for approval',
          asked.map(({ id }) => id),
        )}{' '}
        would need an approval,{' '}
        {figure(
          'straight to signature',
          agreements
            .filter(({ draft, problem }) => draft.length === 0 && problem === null)
            .map(({ id }) => id),
        )}{' '}
        would go straight to signature. Against what is in force it is otherwise for{' '}
        {figure(
          'changed',
          changed.map(({ id }) => id),
        )}
        {undecided.length > 0 && (
          <>
            ;{' '}
            {figure(
              'undecided',
              undecided.map(({ id }) => id),
            )}{' '}
            could not be decided
          </>
        )}
        .{data.more > 0 && ` ${count(data.more)} older ones were not looked at.`}
      </p>
      <div className="mt-4 grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] gap-6">
        <section aria-label="By approver">
          <h2 className="text-base">By approver</h2>
          <table className="mt-1 w-full text-sm">
            <thead className="text-left text-xs text-soft">
              <tr className="border-b border-hair">
                <th className="py-1 font-normal">Approver</th>
                <th className="text-right font-normal">Draft</th>
                <th className="text-right font-normal">In force</th>
                <th className="text-right font-normal">More</th>
                <th className="text-right font-normal">Fewer</th>
                <th className="text-right font-normal" title="The median of what they have decided">
                  Usual days
                </th>
                <th className="text-right font-normal" title="Approvals more or fewer, by their usual pace">
                  Days added
                </th>
              </tr>
            </thead>
            <tbody>
              {figures.map(({ approver, ...each }) => {
                const days = pace.find((known) => known.approver === approver)?.days ?? null
                return (
                  <tr key={approver} className="border-b border-hair/60">
                    <td className="py-1 font-semibold">{approver}</td>
                    {(['draft', 'inForce', 'more', 'fewer'] as const).map((key) => (
                      <td key={key} className="text-right tabular-nums">
                        {figure(`${approver}, ${WORDS[key]}`, each[key])}
                      </td>
                    ))}
                    <td className="text-right tabular-nums text-soft">
                      {days === null ? 'not known' : days}
                    </td>
                    <td className="text-right tabular-nums text-soft">
                      {days === null
                        ? ''
                        : Math.round((each.more.length - each.fewer.length) * days * 10) / 10}
                    </td>
                  </tr>
                )
              })}
            </tbody>
          </table>
          {figures.length === 0 && (
            <p className="mt-2 text-sm text-soft">Nobody would be asked for anything.</p>
          )}
        </section>
        {!isRun && figures.length > 0 && (
          <section aria-label="Approvals a week">
            <h2 className="text-base">Approvals a week</h2>
            <WeekChart
              weeks={weeks}
              approvers={figures.filter(({ draft }) => draft.length).map(({ approver }) => approver)}
              onWeek={(week) =>
                setOpened({
                  what: `week of ${week}`,
                  ids: agreements
                    .filter((each) => each.week === week && each.draft.length)
                    .map(({ id }) => id),
                })
              }
            />
          </section>
        )}
      </div>
      {opened && <OpenedList opened={opened} data={data} isRun={isRun} onClose={() => setOpened(null)} />}
    </>
  )
}

const WORDS = { draft: 'by the draft', inForce: 'by what is in force', more: 'more', fewer: 'fewer' } as const

function Figure({
  what,
  ids,
  open,
  onOpen,
}: Opened & { readonly open: boolean; readonly onOpen: (opened: Opened) => void }) {
  if (ids.length === 0) return <span className="text-soft">0</span>
  return (
    <button
      aria-label={`${ids.length}, ${what}`}
      aria-pressed={open}
      className="text-petrol tabular-nums underline"
      onClick={() => onOpen({ what, ids })}
    >
      {count(ids.length)}
    </button>
  )
}

function OpenedList({
  opened,
  data,
  isRun,
  onClose,
}: {
  readonly opened: Opened
  readonly data: LookBack
  readonly isRun: boolean
  readonly onClose: () => void
}) {
  const wanted = new Set(opened.ids)
  const rows = data.agreements.filter(({ id }) => wanted.has(id))
  return (
    <section aria-label={opened.what} className="mt-6">
      <div className="flex items-baseline gap-3 border-b border-hair pb-1">
        <h2 className="text-base first-letter:capitalize">{opened.what}</h2>
        <span className="text-sm text-soft">{count(rows.length)}</span>
        <button className="ml-auto text-sm text-petrol underline" onClick={onClose}>
          Close
        </button>
      </div>
      <ul className="text-sm">
        {rows.slice(0, 200).map((row) => (
          <li key={row.id} className="grid grid-cols-[8rem_1fr_1fr] gap-3 border-b border-hair/60 py-1">
            {isRun ? (
              <span className="tabular-nums">{row.number}</span>
            ) : (
              <Link to={`/agreements/${row.id}`} className="text-petrol tabular-nums underline">
                {row.number}
              </Link>
            )}
            <span className="truncate">{row.name}</span>
            <span className="text-soft">
              {row.problem ?? (
                <>
                  {row.draft.join(', ') || 'nobody'}
                  {row.draft.join('|') !== row.inForce.join('|') &&
                    `; in force: ${row.inForce.join(', ') || 'nobody'}`}
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
      {rows.length > 200 && <p className="mt-1 text-sm text-soft">And {count(rows.length - 200)} more.</p>}
    </section>
  )
}
