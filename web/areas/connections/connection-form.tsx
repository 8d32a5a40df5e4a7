import { useState } from 'react'
import type { Auth } from '#core/connection/kinds.ts'
import { FormEnd } from '#web/parts/form-end.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import type { Connection } from './connection.ts'

const AUTHS: readonly (readonly [Auth['kind'], string])[] = [
  ['client', 'OAuth 2.0, by a client and its secret'],
  ['key', 'a key in a header'],
  ['basic', 'a name and a password'],
  ['none', 'it asks for nothing'],
]

const EVERY: readonly (readonly [string, string])[] = [
  ['', 'when it calls, or somebody asks'],
  ['5', 'every five minutes'],
  ['15', 'every quarter of an hour'],
  ['60', 'every hour'],
  ['1440', 'once a day'],
]

const asText = (auth: Connection['auth'] | undefined, name: string): string => {
  const value = auth?.[name]
  return typeof value === 'string' ? value : ''
}

export interface ConnectionEntries {
  readonly name: string
  readonly address: string
  readonly description: string
  readonly auth: Auth
  readonly everyMinutes: number | null
}

/** Where a customer system is and how it knows us. */
export function ConnectionForm({
  connection,
  label,
  busy,
  onKeep,
  onClose,
}: {
  readonly connection: Connection | null
  readonly label: string
  readonly busy: boolean
  readonly onKeep: (entries: ConnectionEntries) => void
  readonly onClose: () => void
}) {
  const before = connection?.auth
  const [name, setName] = useState(connection?.name ?? '')
  const [address, setAddress] = useState(connection?.address ?? '')
  const [description, setDescription] = useState(connection?.description ?? '/openapi.json')
  const [every, setEvery] = useState(connection ? String(connection.everyMinutes ?? '') : '15')
  const [kind, setKind] = useState<Auth['kind']>((before?.kind as Auth['kind'] | undefined) ?? 'client')
  const [user, setUser] = useState(
    asText(before, 'user') || asText(before, 'client') || asText(before, 'header') || '',
  )
  const [tokenUrl, setTokenUrl] = useState(asText(before, 'tokenUrl'))
  const [scope, setScope] = useState(asText(before, 'scope'))
  const [secret, setSecret] = useState('')
  const auth = (): Auth => {
    if (kind === 'key') return { kind, header: user || 'X-Api-Key', secret }
    if (kind === 'basic') return { kind, user, secret }
    if (kind === 'client') return { kind, client: user, secret, tokenUrl, scope }
    return { kind: 'none' }
  }
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        onKeep({ name, address, description, auth: auth(), everyMinutes: every ? Number(every) : null })
      }}
    >
      <Labelled label="What it is called">
        <Input autoFocus maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <Labelled
        label="Address"
        hint="Addresses inside this server’s own network are not called unless its settings allow them."
      >
        <Input
          type="url"
          maxLength={1000}
          placeholder="https://"
          value={address}
          onChange={(event) => setAddress(event.target.value)}
        />
      </Labelled>
      <Labelled
        label="Its description (OpenAPI), below the address"
        hint="Empty where it has none: its lists are looked at then."
      >
        <Input maxLength={500} value={description} onChange={(event) => setDescription(event.target.value)} />
      </Labelled>
      <Labelled label="How it knows us">
        <Select value={kind} onChange={(event) => setKind(event.target.value as Auth['kind'])}>
          {AUTHS.map(([value, said]) => (
            <option key={value} value={value}>
              {said}
            </option>
          ))}
        </Select>
      </Labelled>
      {kind === 'client' && (
        <Labelled label="Where tokens are given">
          <Input
            type="url"
            maxLength={1000}
            value={tokenUrl}
            onChange={(event) => setTokenUrl(event.target.value)}
          />
        </Labelled>
      )}
      {kind !== 'none' && (
        <div className="grid grid-cols-2 gap-3">
          <Labelled label={kind === 'key' ? 'Header' : kind === 'basic' ? 'Name' : 'Client'}>
            <Input
              autoComplete="off"
              placeholder={kind === 'key' ? 'X-Api-Key' : ''}
              value={user}
              onChange={(event) => setUser(event.target.value)}
            />
          </Labelled>
          <Labelled label={kind === 'key' ? 'Key' : kind === 'basic' ? 'Password' : 'Secret'}>
            <Input
              type="password"
              autoComplete="new-password"
              placeholder={connection ? 'as it was' : ''}
              value={secret}
              onChange={(event) => setSecret(event.target.value)}
            />
          </Labelled>
        </div>
      )}
      {kind === 'client' && (
        <Labelled label="Scope, where it wants one">
          <Input value={scope} onChange={(event) => setScope(event.target.value)} />
        </Labelled>
      )}
      <Labelled label="Read">
        <Select value={every} onChange={(event) => setEvery(event.target.value)}>
          {EVERY.map(([value, said]) => (
            <option key={value} value={value}>
              {said}
            </option>
          ))}
        </Select>
      </Labelled>
      <FormEnd
        label={label}
        busy={busy}
        disabled={name.trim() === '' || address.trim() === ''}
        onClose={onClose}
      />
    </form>
  )
}
