import * as v from 'valibot'
import { type Auth, AUTH_KINDS } from '#core/connection/kinds.ts'
import { filled, text, wholeOrNone } from '#web/parts/form/entries.ts'
import { type Option, SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import type { Connection } from './connection.ts'

/** Each way to sign in at a customer system: what it is called, and its two entries. */
const SIGN_INS: Readonly<Record<Auth['kind'], readonly [said: string, user: string, secret: string]>> = {
  client: ['OAuth 2.0 client credentials', 'Client ID', 'Client secret'],
  key: ['key in a header', 'Header', 'Key'],
  basic: ['user name and password', 'User name', 'Password'],
  none: ['no sign-in', '', ''],
}

const EVERY: readonly Option[] = [
  ['', 'on its webhook or by hand'],
  ['5', 'every 5 minutes'],
  ['15', 'every 15 minutes'],
  ['60', 'every hour'],
  ['1440', 'once a day'],
]

const connectionSchema = v.object({
  name: filled('Enter a name.'),
  address: filled('Enter the system’s address.', 1000),
  description: text(500),
  everyMinutes: wholeOrNone(1),
  kind: v.picklist(AUTH_KINDS),
  user: text(300),
  tokenUrl: text(1000),
  scope: text(500),
  secret: v.string(),
})
type Entered = v.InferOutput<typeof connectionSchema>

function authOf({ kind, user, secret, tokenUrl, scope }: Entered): Auth {
  switch (kind) {
    case 'key':
      return { kind, header: user || 'X-Api-Key', secret }
    case 'basic':
      return { kind, user, secret }
    case 'client':
      return { kind, client: user, secret, tokenUrl, scope }
    case 'none':
      return { kind }
  }
}

const textOf = (auth: Connection['auth'] | undefined, ...names: readonly string[]): string =>
  names.map((name) => auth?.[name]).find((value) => typeof value === 'string') ?? ''

/** Where a customer system is and how we sign in there, as it is sent. */
export interface ConnectionEntries {
  readonly name: string
  readonly address: string
  readonly description: string
  readonly auth: Auth
  readonly everyMinutes: number | null
}

/** Where a customer system is and how we sign in there. */
export function ConnectionForm<A>({
  connection,
  submit,
  send,
  onDone,
  onClose,
}: {
  readonly connection: Connection | null
  readonly submit: string
  readonly send: (entries: ConnectionEntries) => Promise<A>
  readonly onDone: (answer: A) => void
  readonly onClose: () => void
}) {
  const before = connection?.auth
  const entry = useEntry({
    schema: connectionSchema,
    start: {
      name: connection?.name ?? '',
      address: connection?.address ?? '',
      description: connection?.description ?? '/openapi.json',
      everyMinutes: connection ? String(connection.everyMinutes ?? '') : '15',
      kind: AUTH_KINDS.find((kind) => kind === before?.kind) ?? 'client',
      user: textOf(before, 'user', 'client', 'header'),
      tokenUrl: textOf(before, 'tokenUrl'),
      scope: textOf(before, 'scope'),
      secret: '',
    },
    send: (entered) => {
      const { name, address, description, everyMinutes } = entered
      return send({ name, address, description, everyMinutes, auth: authOf(entered) })
    },
    onDone,
  })
  const kind = entry.value('kind')
  const [, user, secret] = SIGN_INS[kind]
  return (
    <Form entry={entry} submit={submit} onClose={onClose}>
      <TextField label="Name" of={entry.at('name')} autoFocus maxLength={200} />
      <TextField
        label="Address"
        hint="Addresses inside this server’s own network are not called unless its settings allow them."
        of={entry.at('address')}
        type="url"
        maxLength={1000}
        placeholder="https://"
      />
      <TextField
        label="OpenAPI description, below the address"
        hint="Leave it empty if there is none; fields are then found from the records themselves."
        of={entry.at('description')}
        maxLength={500}
      />
      <SelectField
        label="Sign-in"
        of={entry.at('kind')}
        options={AUTH_KINDS.map((each) => [each, SIGN_INS[each][0]] as const)}
      />
      {kind === 'client' && (
        <TextField label="Token address" of={entry.at('tokenUrl')} type="url" maxLength={1000} />
      )}
      {kind !== 'none' && (
        <div className="grid grid-cols-2 gap-3">
          <TextField
            label={user}
            of={entry.at('user')}
            autoComplete="off"
            placeholder={kind === 'key' ? 'X-Api-Key' : ''}
          />
          <TextField
            label={secret}
            of={entry.at('secret')}
            type="password"
            autoComplete="new-password"
            placeholder={connection ? 'unchanged' : ''}
          />
        </div>
      )}
      {kind === 'client' && <TextField label="Scope (optional)" of={entry.at('scope')} />}
      <SelectField label="Records are read" of={entry.at('everyMinutes')} options={EVERY} />
    </Form>
  )
}
