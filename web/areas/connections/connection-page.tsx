import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import type { Auth, TheirKind } from '#core/connection/kinds.ts'
import { call, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import type { Connection } from './connection.ts'
import { ConflictsPart } from './conflicts-part.tsx'
import { ConnectionForm } from './connection-form.tsx'
import { Standing } from './connections-page.tsx'
import { KindsPart } from './kinds-part.tsx'

/** One customer system: how it stands, what it has, and what waits for somebody. */
export default function ConnectionPage() {
  const { id = '' } = useParams()
  const connections = useAnswer('connections', {}, { every: 4000 })
  if (connections.isPending) return <Loading />
  if (connections.isError)
    return <Failed error={connections.error} retry={() => void connections.refetch()} />
  const found = connections.data.find((each) => each.id === id)
  return found ? <Opened key={id} connection={found} /> : <Empty title="There is no such connection" />
}

function Opened({ connection }: { readonly connection: Connection }) {
  const { id, name, drift } = connection
  const say = useNotice()
  const navigate = useNavigate()
  const [changing, setChanging] = useState(false)
  const save = useCall('saveConnection', () => {
    setChanging(false)
    say('Kept.')
  })
  const pull = useCall('pullNow', () => say('It is being read.'))
  const end = useCall('endConnection', () => void navigate('/settings/programs/connections'))
  const trial = useMutation({
    mutationFn: () => call('tryConnection', { params: { id } }),
    onError: (error) => say(problemText(error), 'fault'),
  })
  const keep = (change: Partial<Connection>) => {
    const { address, description, kinds, everyMinutes, version } = connection
    const whole = {
      name,
      address,
      description,
      kinds,
      everyMinutes,
      auth: connection.auth,
      version,
      ...change,
    }
    save.mutate({ params: { id }, body: whole })
  }
  return (
    <div className="h-full overflow-auto px-6 pt-4 pb-10">
      <div className="mx-auto max-w-5xl">
        <Link to="/settings/programs/connections" className="text-xs text-petrol hover:underline">
          Customer systems
        </Link>
        <div className="flex items-baseline gap-3">
          <h1 className="text-xl">{name}</h1>
          <code className="truncate text-xs text-soft">{connection.address}</code>
          <span className="ml-auto flex items-baseline gap-2">
            <SureButton
              className="text-sm"
              label="End it"
              sure="End it: its records stay"
              onSure={() => end.mutate({ params: { id } })}
            />
            <Button onClick={() => setChanging(true)}>Change</Button>
            <Button busy={trial.isPending} onClick={() => trial.mutate()}>
              Try it
            </Button>
            <Button kind="main" disabled={connection.busy} onClick={() => pull.mutate({ params: { id } })}>
              Read now
            </Button>
          </span>
        </div>
        <p className="mt-1 text-sm">
          <Standing connection={connection} />
          <span className="text-soft">
            ; {plural(connection.records, 'record')}
            {connection.pulledAt &&
              `, of the last reading ${connection.last.made} new and ${connection.last.changed} changed`}
            {connection.waiting > 0 && `, ${connection.waiting} wait for their customer`}. {connection.owner}{' '}
            hears where it fails.
          </span>
        </p>
        {trial.data && (
          <ol className="mt-3 border-l-2 border-hair pl-3 text-sm" aria-label="What came of trying it">
            {trial.data.steps.map((step) => (
              <li key={step.name} className="flex gap-3 py-0.5">
                <span className={step.ok ? 'text-moss' : 'text-brick'}>{step.ok ? 'yes' : 'no'}</span>
                <span>{step.name}:</span>
                <span className="min-w-0 flex-1 text-soft wrap-anywhere">{step.said}</span>
              </li>
            ))}
          </ol>
        )}
        {drift.length > 0 && (
          <section aria-label="What it has changed" className="mt-4 border-l-2 border-ochre pl-3 text-sm">
            <p>
              It is not as it was when its fields were mapped. What can be read still is; look at the mapping.
            </p>
            <ul>
              {drift.slice(0, 20).map(({ kind, what, field, before, now }) => (
                <li key={`${kind} ${field}`}>
                  {kind}: <code>{field || kind}</code>{' '}
                  {what === 'gone'
                    ? 'is gone'
                    : what === 'new'
                      ? `is new (${now})`
                      : `was ${before} and is ${now}`}
                </li>
              ))}
            </ul>
          </section>
        )}
        <ConflictsPart connection={connection} />
        <KindsPart
          key={connection.version}
          connection={connection}
          busy={save.isPending}
          onKeep={(kinds: readonly TheirKind[]) => keep({ kinds: [...kinds] })}
        />
        <p className="mt-6 text-xs text-soft">
          Where it can tell of changes by itself: <code className="select-all">{connection.hook}</code>
        </p>
        <Dialog title={name} open={changing} onClose={() => setChanging(false)}>
          <ConnectionForm
            connection={connection}
            label="Keep"
            busy={save.isPending}
            onClose={() => setChanging(false)}
            onKeep={({ auth, ...entries }) =>
              keep({ ...entries, auth: auth as Auth & Record<string, unknown> })
            }
          />
        </Dialog>
      </div>
    </div>
  )
}
