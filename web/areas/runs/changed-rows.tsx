import { useState } from 'react'
import { useAnswer, useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Empty } from '#web/parts/states.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { WordChanges } from '#web/parts/signs/word-changes.tsx'
import { useNotice } from '#web/api/notices.tsx'
import { type RunRow, useRun } from './open-run/use-run.ts'

const SHOWN = 50

/** Rows whose source has changed since they were made: old against new, and the making of only these again. */
export function ChangedRows() {
  const { rows, run, may } = useRun()
  const say = useNotice()
  const redo = useCall('redoRows', ({ redone, refused }) =>
    say(
      `${plural(redone, 'agreement')} made again, under the same number${refused ? `; ${refused} could not be` : ''}.`,
    ),
  )
  const changed = rows.filter((row) => row.changed)
  /** Rows that are left as they are made; all others are made again. */
  const [kept, setKept] = useState<ReadonlySet<number>>(new Set())
  const chosen = changed.filter(({ row }) => !kept.has(row)).map(({ row }) => row)
  if (changed.length === 0)
    return <Empty title="Nothing has changed">The agreements say what their source says.</Empty>
  return (
    <div
      className="min-h-0 flex-1 overflow-auto text-sm"
      tabIndex={0}
      role="region"
      aria-label="Changed rows"
    >
      {may && (
        <p className="flex items-center gap-3 border-b border-hair px-4 py-2">
          <input
            type="checkbox"
            aria-label="All changed rows"
            checked={kept.size === 0}
            onChange={(event) => setKept(new Set(event.target.checked ? [] : changed.map(({ row }) => row)))}
          />
          Each keeps its number and gets its next revision; approvals are asked for anew.
          <Button
            kind="main"
            className="ml-auto"
            busy={redo.isPending}
            disabled={chosen.length === 0}
            onClick={() => redo.mutate({ params: { id: run.id }, body: { rows: chosen } })}
          >
            Make {plural(chosen.length, 'row')} again
          </Button>
        </p>
      )}
      <ul>
        {changed.slice(0, SHOWN).map((row) => (
          <Changed
            key={row.row}
            row={row}
            chosen={!kept.has(row.row)}
            onChoose={
              may
                ? (on) =>
                    setKept(
                      (before) =>
                        new Set(on ? [...before].filter((each) => each !== row.row) : [...before, row.row]),
                    )
                : null
            }
          />
        ))}
        {changed.length > SHOWN && (
          <li className="px-4 py-2 text-soft">
            and {plural(changed.length - SHOWN, 'row')} more; All rows lists them.
          </li>
        )}
      </ul>
    </div>
  )
}

function Changed({
  row,
  chosen,
  onChoose,
}: {
  readonly row: RunRow
  readonly chosen: boolean
  /** Null where one may only look. */
  readonly onChoose: ((chosen: boolean) => void) | null
}) {
  const { run, show } = useRun()
  const changes = useAnswer('rowChanges', { params: { id: run.id, row: row.row } })
  return (
    <li className="border-b border-hair/60 px-4 py-2">
      <span className="flex items-center gap-3">
        {onChoose && (
          <input
            type="checkbox"
            aria-label={`Make ${row.number}, ${row.label} again`}
            checked={chosen}
            onChange={(event) => onChoose(event.target.checked)}
          />
        )}
        <button className="font-semibold hover:underline" onClick={() => show(row.row)}>
          {row.number}, {row.label}
        </button>
      </span>
      {changes.data?.refusal && <p className="text-ochre">{changes.data.refusal}</p>}
      {changes.data?.values.map(({ label, before, after }) => (
        <p key={label}>
          <span className="text-soft">{label}: </span>
          {before || 'empty'} → {after || 'empty'}
        </p>
      ))}
      {changes.data?.paragraphs.map((paragraph, i) => (
        <p key={i} className="mt-1 font-serif">
          <WordChanges words={paragraph} context={12} />
        </p>
      ))}
    </li>
  )
}
