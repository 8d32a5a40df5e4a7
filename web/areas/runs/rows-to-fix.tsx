import { type FocusEvent, useEffect, useRef, useState } from 'react'
import { useCall, useCalling } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Empty } from '#web/parts/states.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { fieldNamed, type RunRow, type Setup, useRun } from './open-run/use-run.ts'

const EXAMPLES: Partial<Record<Setup['fields'][number]['type'], string>> = {
  date: 'such as 2027-04-11',
  time: 'such as 06:30',
  'date and time': 'such as 2027-04-11 06:30',
}

type Problem = RunRow['problems'][number]

/** Asked about a row, not wrong in it: whether to make another for the same customer. */
const asksAgain = ({ kind }: Problem): boolean => kind === 'twice' || kind === 'live'

/** Rows that need a hand, each with the place to give it: what is mended here is mended in the sheet. */
export function Hands() {
  const { rows, run, may } = useRun()
  const decide = useCall('decideRows')
  // All of them are meant as they stand after a decision about one.
  const busy = useCalling('decideRows')
  const hands = rows.filter(({ state }) => state === 'needs a hand' || state === 'failed')
  const tight = rows.filter(({ overflow, state }) => overflow.length > 0 && state !== 'made')
  const twice = hands.filter(({ problems }) => problems.every(asksAgain))
  const { list, onFocus } = useNextFocus(rows)
  if (hands.length === 0 && tight.length === 0) return <Empty title="No row needs a hand" />
  return (
    <div
      ref={list}
      onFocus={onFocus}
      tabIndex={0}
      aria-label="Rows that need a hand"
      role="region"
      className="min-h-0 flex-1 overflow-auto"
    >
      {may && twice.length > 1 && (
        <p className="flex flex-wrap items-center gap-2 border-b border-hair bg-ochre-wash px-4 py-2 text-sm">
          {plural(twice.length, 'row')} of customers who are there twice or have a live agreement.
          <Button
            busy={busy}
            onClick={() =>
              decide.mutate({
                params: { id: run.id },
                body: { rows: twice.map(({ row }) => row), decision: 'make' },
              })
            }
          >
            Make them anyway
          </Button>
          <Button
            kind="quiet"
            busy={busy}
            onClick={() =>
              decide.mutate({
                params: { id: run.id },
                body: { rows: twice.map(({ row }) => row), decision: 'leave out' },
              })
            }
          >
            Leave them out
          </Button>
        </p>
      )}
      <ul className="text-sm">
        {hands.map((row) => (
          <Hand key={row.row} row={row} />
        ))}
      </ul>
      {tight.length > 0 && (
        <>
          <h2 className="border-b border-hair px-4 pt-4 pb-1 text-base">Something does not fit</h2>
          <TightPlaces rows={tight} looked={rows.filter(({ pages }) => pages !== null).length} />
          <ul className="text-sm">
            {tight.map((row) => (
              <Tight key={row.row} row={row} />
            ))}
          </ul>
        </>
      )}
    </div>
  )
}

/** When the row one was at has gone because it is mended, the one in its place has the focus, not the whole page. */
function useNextFocus(rows: readonly RunRow[]) {
  const list = useRef<HTMLDivElement>(null)
  const at = useRef<number | null>(null)
  const onFocus = (event: FocusEvent) => {
    const item = (event.target as HTMLElement).closest('[data-hand]')
    at.current = item ? [...list.current!.querySelectorAll('[data-hand]')].indexOf(item) : null
  }
  useEffect(() => {
    if (at.current === null || document.activeElement !== document.body) return
    const items = list.current?.querySelectorAll('[data-hand]')
    const next = items?.[Math.min(at.current, items.length - 1)]
    const place = next?.querySelector<HTMLElement>('input, select') ?? next?.querySelector('button')
    place?.focus()
  }, [rows])
  return { list, onFocus }
}

function Hand({ row }: { readonly row: RunRow }) {
  const { run, show, row: shown, may } = useRun()
  const decide = useCall('decideRows')
  const say = (decision: 'make' | 'leave out') =>
    decide.mutate({ params: { id: run.id }, body: { rows: [row.row], decision } })
  return (
    <li
      data-hand={row.row}
      className={`grid grid-cols-[3.2rem_9.5rem_minmax(0,1fr)_auto] items-start gap-2 border-b border-hair/60 px-4 py-1.5 ${shown === row.row ? 'bg-petrol-wash' : ''}`}
    >
      <button
        className="text-left text-soft tabular-nums hover:text-ink"
        onClick={() => show(row.row)}
        aria-label={`Row ${row.row}, show its proof`}
      >
        Row {row.row}
      </button>
      <span className="truncate font-semibold" title={row.label}>
        {row.label}
      </span>
      <div className="flex min-w-0 flex-col gap-1.5">
        {row.problems.map((problem, i) => (
          <ProblemLine key={`${problem.field}${problem.column}${i}`} row={row} problem={problem} />
        ))}
      </div>
      <span className="flex gap-1">
        {may && row.problems.some(asksAgain) && (
          <button className="text-xs text-petrol underline" onClick={() => say('make')}>
            make it anyway
          </button>
        )}
        {may && row.state !== 'failed' && (
          <button className="text-xs text-soft hover:text-ink" onClick={() => say('leave out')}>
            leave out
          </button>
        )}
      </span>
    </li>
  )
}

function ProblemLine({ row, problem }: { readonly row: RunRow; readonly problem: Problem }) {
  const { may, setup } = useRun()
  const column = problem.column
  const field = fieldNamed(setup, problem.field)
  // What no column gives is given here, for this row alone.
  const given = column === null && field !== undefined && field.type !== 'list' && !asksAgain(problem)
  const mendable = may && row.state !== 'failed' && (column !== null || given)
  return (
    <div>
      <span className={row.state === 'failed' ? 'text-brick' : ''}>
        {column && <span className="text-soft">{column}: </span>}
        {problem.message}
      </span>
      {mendable && setup && <Mend key={problem.cell ?? ''} row={row} problem={problem} setup={setup} />}
    </div>
  )
}

/** The cell at fault, to be written anew; of a value that is asked for, the answer. */
function Mend({
  row,
  problem,
  setup,
}: {
  readonly row: RunRow
  readonly problem: Problem
  readonly setup: Setup
}) {
  const { run } = useRun()
  const before = problem.cell ?? row.answers[problem.field] ?? ''
  const [text, setText] = useState(before)
  const byKey = useRef(false)
  const mend = useCall('mendCells')
  const answer = useCall('answerRow')
  // Only this one waits: the next can be mended while the rows are checked anew.
  const busy = mend.isPending || answer.isPending
  const field = fieldNamed(setup, problem.field)
  const save = (value: string) => {
    if (value.trim() === before.trim()) return
    if (problem.column !== null)
      mend.mutate({
        params: { id: run.sheetId },
        body: { cells: [{ row: problem.row ?? row.row, column: problem.column, value }] },
      })
    else
      answer.mutate({
        params: { id: run.id, row: row.row },
        body: { answers: { [problem.field]: value } },
      })
  }
  const label = `${field?.label ?? problem.column ?? problem.field} of row ${row.row}`
  const look = 'w-56 rounded-sm border border-hair bg-sheet px-1.5 py-0.5 disabled:opacity-60'
  const choices = field?.choices ?? (field?.type === 'yes/no' ? ['yes', 'no'] : null)
  if (choices)
    return (
      <select
        aria-label={label}
        className={`mt-0.5 block ${look}`}
        value={choices.includes(text) ? text : ''}
        disabled={busy}
        // By keys a choice is looked for letter by letter: Enter, or leaving it, is what says it.
        onPointerDown={() => (byKey.current = false)}
        onKeyDown={(event) => {
          byKey.current = true
          if (event.key === 'Enter') save(text)
          if (event.key === 'Escape') setText(before)
        }}
        onBlur={() => save(text)}
        onChange={(event) => {
          setText(event.target.value)
          if (!byKey.current) save(event.target.value)
        }}
      >
        <option value="">{before || 'choose'}</option>
        {choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    )
  return (
    <form
      className="mt-0.5 flex items-center gap-1"
      onSubmit={(event) => {
        event.preventDefault()
        save(text)
      }}
    >
      <input
        aria-label={label}
        className={look}
        value={text}
        disabled={busy}
        placeholder={(field && EXAMPLES[field.type]) ?? ''}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => event.key === 'Escape' && setText(before)}
      />
      {text.trim() !== before.trim() && (
        <Button type="submit" busy={mend.isPending || answer.isPending}>
          Mend
        </Button>
      )}
    </form>
  )
}

/** Of each place that is too small: for how many of the rows looked at, and the longest of their values. */
function TightPlaces({ rows, looked }: { readonly rows: readonly RunRow[]; readonly looked: number }) {
  const places = new Map<string, { rows: number; longest: string; row: number }>()
  for (const { row, overflow } of rows)
    for (const { where, text, alone } of overflow) {
      if (alone) continue
      const before = places.get(where) ?? { rows: 0, longest: '', row }
      const longer = text.length > before.longest.length
      places.set(where, {
        rows: before.rows + 1,
        longest: longer ? text : before.longest,
        row: longer ? row : before.row,
      })
    }
  return [...places].map(([where, { rows: many, longest, row }]) => (
    <p key={where} className="border-b border-hair bg-ochre-wash px-4 py-1.5 text-sm text-ochre">
      {where}: {many} of {plural(looked, 'value')} do not fit; longest is “{longest}”, row {row}.
    </p>
  ))
}

function Tight({ row }: { readonly row: RunRow }) {
  const { show } = useRun()
  return (
    <li className="grid grid-cols-[3.2rem_9.5rem_minmax(0,1fr)] gap-2 border-b border-hair/60 px-4 py-1.5">
      <button className="text-left text-soft tabular-nums hover:text-ink" onClick={() => show(row.row)}>
        Row {row.row}
      </button>
      <span className="truncate font-semibold">{row.label}</span>
      <span className="text-ochre">
        {row.overflow
          .map(({ where, text, alone }) =>
            alone
              ? 'the signatures stand on a page with no words above them'
              : `${where}: “${text}” is too long for its place`,
          )
          .join('; ')}
      </span>
    </li>
  )
}
