import { Link } from 'react-router'
import { PLURALS } from '#core/records/kinds.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import type { Connection } from './connection.ts'

/** Records that both changed, that could not be read whole, or that wait: each with what can be done. */
export function ConflictsPart({ connection }: { readonly connection: Connection }) {
  const { id } = connection
  const open = connection.conflicts + connection.faulty + connection.waiting > 0
  const conflicts = useAnswer('conflicts', { params: { id } }, { enabled: open, every: 5000 })
  const settle = useCall('settleConflict')
  if (!open || !conflicts.data?.length) return null
  return (
    <section aria-label="Needs a hand" className="mt-5">
      <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">Needs a hand</h2>
      <ul className="text-sm">
        {conflicts.data.map(({ kind, theirId, record, differences, problems, waits }) => (
          <li key={`${kind} ${theirId}`} className="border-b border-hair/60 py-2">
            <p className="flex items-baseline gap-3">
              <span className="font-semibold">
                {record ? (
                  <Link
                    to={`/records/${PLURALS[record.kind]}/${record.id}`}
                    className="text-petrol hover:underline"
                  >
                    {record.name}
                  </Link>
                ) : (
                  `${kind} ${theirId}`
                )}
              </span>
              {waits && <span className="text-soft">waiting for its customer</span>}
              {differences.length > 0 && (
                <span className="ml-auto flex gap-2">
                  <Button
                    busy={settle.isPending}
                    onClick={() => settle.mutate({ params: { id }, body: { kind, theirId, take: true } })}
                  >
                    Use their value
                  </Button>
                  <Button
                    kind="quiet"
                    busy={settle.isPending}
                    onClick={() => settle.mutate({ params: { id }, body: { kind, theirId, take: false } })}
                  >
                    Keep our value
                  </Button>
                </span>
              )}
            </p>
            {differences.map(({ field, ours, theirs }) => (
              <p key={field} className="grid grid-cols-[9rem_minmax(0,1fr)_minmax(0,1fr)] gap-3">
                <span className="text-soft">{field}</span>
                <span className="wrap-anywhere">our value: {ours || '—'}</span>
                <span className="wrap-anywhere">their value: {theirs || '—'}</span>
              </p>
            ))}
            {problems.map(({ field, message }) => (
              <p key={`${field} ${message}`} className="text-brick">
                {message}
              </p>
            ))}
          </li>
        ))}
      </ul>
    </section>
  )
}
