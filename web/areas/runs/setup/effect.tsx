import { Link } from 'react-router'
import { count, plural } from '#web/parts/signs/when.tsx'
import { fieldNamed, type RunRow, useRun } from '#web/areas/runs/open-run/use-run.ts'

const shares = [
  ['ready', 'ready', 'bg-petrol'],
  ['made', 'made', 'bg-moss'],
  ['needs a hand', 'need you', 'bg-ochre'],
  ['failed', 'failed', 'bg-brick'],
  ['skipped', 'left out', 'bg-hair'],
] as const

/** What the set-up gives: how many rows, which wordings, who approves, and what stands in the way. */
export function Effect() {
  const { rows, wordings, progress, setup } = useRun()
  const checking = progress.state === 'checking'
  const number = (state: RunRow['state']) => rows.filter((row) => row.state === state).length
  const reasons = counted(
    rows.flatMap(({ state, problems }) =>
      state === 'needs a hand'
        ? [
            ...new Set(
              problems.map(({ column, field, kind }) =>
                reasonOf(column ?? fieldNamed(setup, field)?.label ?? field, kind),
              ),
            ),
          ]
        : [],
    ),
  )
  const approvers = counted(
    rows.flatMap(({ state, approvals }) =>
      state === 'skipped' ? [] : approvals.map(({ approver }) => approver),
    ),
  )
  const left = counted(
    rows.flatMap(({ state, problems }) =>
      state === 'skipped' ? problems.map(({ message }) => message) : [],
    ),
  )
  return (
    <section
      aria-label="What this gives"
      aria-busy={checking}
      className={`min-h-0 overflow-auto border-l border-hair px-4 py-3 ${checking ? 'opacity-60' : ''}`}
    >
      <p className="font-serif text-lg font-semibold" role="status">
        {plural(number('ready') + number('made'), 'row')} ready,{' '}
        {number('needs a hand') === 1 ? '1 row needs you' : `${count(number('needs a hand'))} rows need you`}
        {number('skipped') > 0 && `, ${count(number('skipped'))} left out`}
      </p>
      <div className="mt-2 flex h-2 w-full overflow-hidden bg-wash" aria-hidden>
        {shares.map(([state, , colour]) => (
          <span
            key={state}
            className={colour}
            style={{ width: `${rows.length ? (100 * number(state)) / rows.length : 0}%` }}
          />
        ))}
      </div>
      <ul className="mt-1 flex flex-wrap gap-x-4 text-xs text-soft">
        {shares
          .filter(([state]) => number(state) > 0)
          .map(([state, name, colour]) => (
            <li key={state} className="flex items-center gap-1">
              <span className={`inline-block size-2 ${colour}`} aria-hidden /> {count(number(state))} {name}
            </li>
          ))}
      </ul>
      <Lines title="In the way" lines={reasons} to="?view=need a hand" />
      <Lines
        title={`${plural(wordings.length, 'wording')}`}
        to="?view=wordings"
        lines={wordings
          .slice(0, 12)
          .map(({ rows: of, standard, added, left: without }) => [
            standard
              ? 'the standard wording'
              : [...added.map((each) => `with ${each}`), ...without.map((each) => `without ${each}`)].join(
                  ', ',
                ),
            of.length,
          ])}
      />
      <Lines title="To approve" lines={approvers} />
      <Lines title="Left out" lines={left} to="?view=all rows" />
    </section>
  )
}

const reasonOf = (place: string, kind: string | undefined) =>
  kind === 'twice'
    ? 'the same customer twice'
    : kind === 'live'
      ? 'a customer with a live agreement'
      : kind === 'file'
        ? 'a file that is not there'
        : place || 'the wording'

function counted(texts: readonly string[]): readonly (readonly [string, number])[] {
  const counts = new Map<string, number>()
  for (const text of texts) counts.set(text, (counts.get(text) ?? 0) + 1)
  return [...counts].sort(([, a], [, b]) => b - a)
}

function Lines({
  title,
  lines,
  to,
}: {
  readonly title: string
  readonly lines: readonly (readonly [string, number])[]
  readonly to?: string
}) {
  if (lines.length === 0) return null
  return (
    <div className="mt-4">
      <h3 className="mb-0.5 font-serif font-semibold">
        {to ? (
          <Link to={to} className="hover:underline">
            {title}
          </Link>
        ) : (
          title
        )}
      </h3>
      <ul className="text-sm">
        {lines.slice(0, 12).map(([text, number]) => (
          <li key={text} className="grid grid-cols-[3rem_1fr] border-b border-hair/60 py-0.5">
            <span className="pr-3 text-right tabular-nums">{count(number)}</span>
            <span className="truncate" title={text}>
              {text}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}
