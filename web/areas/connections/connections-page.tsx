import { PlugZap } from 'lucide-react'
import { Link, useNavigate } from 'react-router'
import { call, useAnswer } from '#web/api/client.ts'
import { SettingsPlaces } from '#web/areas/programs/settings-head.tsx'
import { SecretButton } from '#web/parts/secret-button.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import type { Connection } from './connection.ts'
import { ConnectionForm } from './connection-form.tsx'

/** Customer systems that records come from and results go to. */
export default function ConnectionsPage() {
  const connections = useAnswer('connections', {}, { every: 5000 })
  const navigate = useNavigate()
  if (connections.isPending) return <Loading />
  if (connections.isError)
    return <Failed error={connections.error} retry={() => void connections.refetch()} />
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-5xl px-6 pt-4 pb-10">
        <SettingsPlaces />
        <div className="mt-4 flex items-start gap-4">
          <div>
            <h1 className="text-xl">Connections</h1>
            <p className="max-w-2xl text-sm text-soft">
              Customers, contacts and deals are read from connected systems; the status of their agreements
              goes back there.
            </p>
          </div>
          <SecretButton
            kind="main"
            className="ml-auto"
            title="Connect a customer system"
            label={
              <>
                <PlugZap size={14} /> Add connection
              </>
            }
            content={(onMade, close) => (
              <ConnectionForm
                connection={null}
                submit="Add connection"
                onClose={close}
                send={(body) => call('makeConnection', { body: { ...body, kinds: [] } })}
                onDone={({ id, secret }) =>
                  onMade(secret, () => void navigate(`/settings/programs/connections/${id}`))
                }
              />
            )}
            use={() =>
              'A system that calls our webhook when something changes signs its calls with this secret (Standard Webhooks). Without a webhook, records are read on a schedule.'
            }
          />
        </div>
        {connections.data.length === 0 ? (
          <Empty title="No connections yet">
            Add one by its address and sign-in. Its object types and fields are found from there.
          </Empty>
        ) : (
          <ul className="mt-3 text-sm" aria-label="Connections">
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
      </div>
    </div>
  )
}

/** How a connection stands, in a few words. */
export function Standing({ connection }: { readonly connection: Connection }) {
  const { problem, dueAt, busy, pulledAt, conflicts, faulty, drift, kinds } = connection
  if (busy) return <span className="text-soft">reading now</span>
  if (problem)
    return (
      <span className="text-brick">
        {problem}
        {dueAt && (
          <>
            {' '}
            Next try <When at={dueAt} />.
          </>
        )}
      </span>
    )
  if (kinds.every(({ into }) => into === null))
    return <span className="text-ochre">no object type is mapped yet</span>
  const waits = [
    conflicts && plural(conflicts, 'conflict'),
    faulty && `${plural(faulty, 'record')} with errors`,
    drift.some(({ what }) => what !== 'new') && 'its fields have changed',
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
