import { useMutation } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from 'react-router'
import type { TheirKind } from '#core/connection/kinds.ts'
import { call, problemText, useAnswer, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { DialogButton } from '#web/parts/dialog-button.tsx'
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
  const save = useMutation({
    mutationFn: (change: Partial<Connection>) => {
      const { address, description, kinds, everyMinutes, auth, version } = connection
      const body = { name, address, description, kinds, everyMinutes, auth, version, ...change }
      return call('saveConnection', { params: { id }, body })
    },
    onSuccess: () => say('Connection saved.'),
  })
  const pull = useCall('pullNow', () => say('The records are being read.'))
  const end = useCall('endConnection', () => void navigate('/settings/programs/connections'))
  const trial = useMutation({
    mutationFn: () => call('tryConnection', { params: { id } }),
    onError: (error) => say(problemText(error), 'fault'),
  })
  return (
    <div className="h-full overflow-auto px-6 pt-4 pb-10">
      <div className="mx-auto max-w-5xl">
        <Link to="/settings/programs/connections" className="text-xs text-petrol hover:underline">
          Connections
        </Link>
        <div className="flex items-baseline gap-3">
          <h1 className="text-xl">{name}</h1>
          <code className="truncate text-xs text-soft">{connection.address}</code>
          <span className="ml-auto flex items-baseline gap-2">
            <SureButton
              className="text-sm"
              label="Remove connection"
              sure="Remove: its records stay"
              onSure={() => end.mutate({ params: { id } })}
            />
            <DialogButton
              title={name}
              label="Edit connection"
              content={(close) => (
                <ConnectionForm
                  connection={connection}
                  submit="Save connection"
                  onClose={close}
                  send={({ auth, ...entries }) =>
                    save.mutateAsync({ ...entries, auth: auth as Connection['auth'] })
                  }
                  onDone={close}
                />
              )}
            />
            <Button busy={trial.isPending} onClick={() => trial.mutate()}>
              Test connection
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
              `, in the last reading ${connection.last.made} new and ${connection.last.changed} changed`}
            {connection.waiting > 0 && `, ${connection.waiting} waiting for their customer`}.{' '}
            {connection.owner} gets an email when it fails.
          </span>
        </p>
        {trial.data && (
          <ol className="mt-3 border-l-2 border-hair pl-3 text-sm" aria-label="Result of the test">
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
          <section aria-label="Changed fields" className="mt-4 border-l-2 border-ochre pl-3 text-sm">
            <p>
              Fields of this system have changed since they were mapped. What can be read still is; check the
              mapping.
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
          onSave={(kinds: readonly TheirKind[]) =>
            save.mutate({ kinds: [...kinds] }, { onError: (error) => say(problemText(error), 'fault') })
          }
        />
        <p className="mt-6 text-xs text-soft">
          Webhook that this system can call when something changes:{' '}
          <code className="select-all">{connection.hook}</code>
        </p>
      </div>
    </div>
  )
}
