import { PlugZap } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { useAnswer, useCall } from '#web/api/client.ts'
import { Secret } from '#web/areas/programs/secret.tsx'
import { SettingsPlaces } from '#web/areas/programs/settings-head.tsx'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import type { Connection } from './connection.ts'
import { ConnectionForm } from './connection-form.tsx'

/** Customer systems that records come from and results go to. */
export default function ConnectionsPage() {
  const connections = useAnswer('connections', {}, { every: 5000 })
  const navigate = useNavigate()
  const [making, setMaking] = useState(false)
  const [made, setMade] = useState<{ readonly id: string; readonly secret: string } | null>(null)
  const make = useCall('makeConnection', (answer) => {
    setMaking(false)
    setMade(answer)
  })
  if (connections.isPending) return <Loading />
  if (connections.isError)
    return <Failed error={connections.error} retry={() => void connections.refetch()} />
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-5xl px-6 pt-4 pb-10">
        <SettingsPlaces />
        <div className="mt-4 flex items-start gap-4">
          <div>
            <h1 className="text-xl">Customer systems</h1>
            <p className="max-w-2xl text-sm text-soft">
              Customers, contacts and deals come from there, and what becomes of their agreements goes back.
            </p>
          </div>
          <Button kind="main" className="ml-auto" onClick={() => setMaking(true)}>
            <PlugZap size={14} /> Connect one
          </Button>
        </div>
        {connections.data.length === 0 ? (
          <Empty title="No customer system is connected">
            Its address and how it knows us are enough to begin; what it has is found then.
          </Empty>
        ) : (
          <ul className="mt-3 text-sm" aria-label="Customer systems">
            {connections.data.map((each) => (
              <li key={each.id} className="border-b border-hair/60">
                <Link
                  to={`/settings/programs/connections/${each.id}`}
                  className="grid grid-cols-[11rem_minmax(0,1fr)_8rem_minmax(0,1.2fr)] items-baseline gap-3 py-2 hover:bg-wash"
                >
                  <span className="truncate font-semibold">{each.name}</span>
                  <code className="truncate text-xs">{each.address}</code>
                  <span>{plural(each.records, 'record')}</span>
                  <Standing connection={each} />
                </Link>
              </li>
            ))}
          </ul>
        )}
        <Dialog title="Connect a customer system" open={making} onClose={() => setMaking(false)}>
          <ConnectionForm
            connection={null}
            label="Connect it"
            busy={make.isPending}
            onClose={() => setMaking(false)}
            onKeep={(body) => make.mutate({ body: { ...body, kinds: [] } })}
          />
        </Dialog>
        <Dialog
          title="What its webhook is signed with, shown this once"
          open={made !== null}
          onClose={() => setMade(null)}
        >
          {made && (
            <Secret
              secret={made.secret}
              onClose={() => void navigate(`/settings/programs/connections/${made.id}`)}
            >
              Where the system can tell of changes by itself, it signs with this (Standard Webhooks). Without
              it, records are read on a schedule.
            </Secret>
          )}
        </Dialog>
      </div>
    </div>
  )
}

/** How a connection stands, in a few words. */
export function Standing({ connection }: { readonly connection: Connection }) {
  const { problem, dueAt, busy, pulledAt, conflicts, faulty, drift, kinds } = connection
  if (busy) return <span className="text-soft">being read</span>
  if (problem)
    return (
      <span className="text-brick">
        {problem}
        {dueAt && (
          <>
            {' '}
            Tried again <When at={dueAt} />.
          </>
        )}
      </span>
    )
  if (kinds.every(({ into }) => into === null))
    return <span className="text-ochre">nothing is read yet: say what its records become</span>
  const waits = [
    conflicts && plural(conflicts, 'conflict'),
    faulty && `${plural(faulty, 'record')} not read whole`,
    drift.some(({ what }) => what !== 'new') && 'it has changed its fields',
  ].filter(Boolean)
  if (waits.length) return <span className="text-ochre">{waits.join(', ')}</span>
  return pulledAt ? (
    <span className="text-moss">
      read <When at={pulledAt} />
    </span>
  ) : (
    <span className="text-soft">not read yet</span>
  )
}
