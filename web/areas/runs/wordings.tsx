import { Empty } from '#web/parts/states.tsx'
import { Link } from 'react-router'
import { useCall } from '#web/api/client.ts'
import { count } from '#web/parts/signs/when.tsx'
import { type RunWording, useRun } from './open-run/use-run.ts'

/** What will these people get: a card for each wording, told by what sets it apart from the one most rows get. */
export function Wordings() {
  const { wordings, rows, run, row: shown } = useRun()
  if (wordings.length === 0)
    return (
      <Empty title="No row is ready">
        {rows.length === 0 ? (
          'The source has no rows for this set-up.'
        ) : (
          <>
            Wordings stand here once rows are ready.{' '}
            <Link className="text-petrol underline" to="?view=need a hand">
              Give the rows a hand
            </Link>
          </>
        )}
      </Empty>
    )
  const asked = new Set(rows.filter(({ approvals }) => approvals.length > 0).map(({ row }) => row))
  const read = wordings.filter((wording) => wording.read !== null)
  const rowsRead = read.reduce((sum, wording) => sum + wording.rows.length, 0)
  const all = wordings.reduce((sum, wording) => sum + wording.rows.length, 0)
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <p className="px-4 pt-2 pb-2 text-sm text-soft">
        {read.length === wordings.length
          ? `All ${count(wordings.length)} wordings have been read: they cover every one of ${count(all)} rows.`
          : `${count(read.length)} of ${count(wordings.length)} wordings read, which covers ${count(rowsRead)} of ${count(all)} rows. Nothing goes out unread unless somebody says so.`}
      </p>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(15.5rem,1fr))] content-start border-t border-hair">
        {wordings.map((wording) => (
          <Card
            key={wording.key}
            runId={run.id}
            wording={wording}
            approvals={wording.rows.filter((row) => asked.has(row)).length}
            open={shown !== null && wording.rows.includes(shown)}
          />
        ))}
      </ul>
    </div>
  )
}

function Card({
  runId,
  wording,
  approvals,
  open,
}: {
  readonly runId: string
  readonly wording: RunWording
  readonly approvals: number
  readonly open: boolean
}) {
  const { show, row, may } = useRun()
  const tick = useCall('tickWording')
  const { typical, longest } = wording
  return (
    <li
      className={`flex flex-col gap-1 border-r border-b border-hair px-4 py-3 ${open ? 'bg-petrol-wash' : ''}`}
    >
      <button
        className="flex items-baseline gap-2 text-left"
        aria-pressed={open}
        onClick={() => show(typical.row)}
      >
        <span className="font-serif text-2xl font-semibold tabular-nums">{count(wording.rows.length)}</span>
        <span className="text-soft">
          {wording.standard ? 'the standard wording' : wording.rows.length === 1 ? 'agreement' : 'agreements'}
        </span>
      </button>
      {wording.added.map((title) => (
        <span key={title} className="text-sm">
          <span className="text-soft">with</span> {title}
        </span>
      ))}
      {wording.left.map((title) => (
        <span key={title} className="text-sm">
          <span className="text-soft">without</span> {title}
        </span>
      ))}
      {wording.standard && wording.kept.length === 0 && (
        <span className="text-sm text-soft">none of the passages with a condition</span>
      )}
      {approvals > 0 && <span className="text-xs text-soft">{approvals} to approve</span>}
      <span className="mt-auto flex flex-col gap-0.5 pt-1 text-xs">
        <Proofed at={typical} kind="a typical one" current={row} onShow={show} />
        {longest.row !== typical.row && (
          <Proofed at={longest} kind="the longest" current={row} onShow={show} />
        )}
      </span>
      <label className="mt-1 flex items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          disabled={!may}
          checked={wording.read !== null}
          onChange={(event) =>
            tick.mutate({ params: { id: runId }, body: { key: wording.key, read: event.target.checked } })
          }
        />
        {wording.read ? <span className="text-moss">read by {wording.read.by}</span> : 'I have read this one'}
      </label>
    </li>
  )
}

function Proofed({
  at,
  kind,
  current,
  onShow,
}: {
  readonly at: { readonly row: number; readonly label: string }
  readonly kind: string
  readonly current: number | null
  readonly onShow: (row: number) => void
}) {
  return (
    <button
      className={`min-h-6 truncate text-left hover:underline ${current === at.row ? 'font-semibold' : 'text-petrol'}`}
      onClick={() => onShow(at.row)}
    >
      proof of {kind}: {at.label}
    </button>
  )
}
