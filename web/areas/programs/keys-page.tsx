import { KeyRound } from 'lucide-react'
import * as v from 'valibot'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { SCOPES } from '#contract/scope.ts'
import { call, useAnswer, useCall } from '#web/api/client.ts'
import { usePerson } from '#web/frame/person.ts'
import { filled, orNone, whole, wholeOrNone } from '#web/parts/form/entries.ts'
import { SelectField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { SecretButton } from '#web/parts/secret-button.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { hasPassed, When } from '#web/parts/signs/when.tsx'
import { Choices } from './choices.tsx'
import { FoldersPart } from './folders-part.tsx'
import { SettingsPlaces } from './settings-head.tsx'
import { WebhooksPart } from './webhooks-part.tsx'

type Key = Answer<Api['keys']>[number]

/** API keys: made, rotated, revoked. A secret is shown once. */
export default function KeysPage() {
  const keys = useAnswer('keys', {}, { every: 15_000 })
  if (keys.isPending) return <Loading />
  if (keys.isError) return <Failed error={keys.error} retry={() => void keys.refetch()} />
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-5xl px-6 pt-4 pb-10">
        <SettingsPlaces />
        <div className="mt-4 flex items-start gap-4">
          <div>
            <h1 className="text-xl">API keys</h1>
            <p className="max-w-2xl text-sm text-soft">
              A program calls the API with a key. The key may do what its owner may, and of that only what its
              scopes name.
            </p>
          </div>
          <SecretButton
            kind="main"
            className="ml-auto"
            title="Create an API key"
            label={
              <>
                <KeyRound size={14} /> Create key
              </>
            }
            content={(onMade, close) => <KeyForm onMade={onMade} onClose={close} />}
            use={bearer}
          />
        </div>
        {keys.data.length === 0 ? (
          <Empty title="No API keys yet">
            Create a key and give it to the program. Its last use is shown here.
          </Empty>
        ) : (
          <div className="mt-3" role="region" aria-label="Keys">
            <table className="w-full text-sm">
              <thead className="sticky top-0 bg-paper text-left text-xs text-soft">
                <tr>
                  <th className="py-1 pr-3 font-normal">Name</th>
                  <th className="px-3 py-1 font-normal">Begins with</th>
                  <th className="px-3 py-1 font-normal">Owner</th>
                  <th className="px-3 py-1 font-normal">Scopes</th>
                  <th className="px-3 py-1 font-normal">Last used</th>
                  <th className="px-3 py-1 font-normal">Expires</th>
                  <th className="py-1 pl-3" />
                </tr>
              </thead>
              <tbody>
                {keys.data.map((key) => (
                  <KeyRow key={key.id} known={key} />
                ))}
              </tbody>
            </table>
          </div>
        )}
        <WebhooksPart />
        <FoldersPart />
      </div>
    </div>
  )
}

const bearer = (secret: string) => (
  <>
    Send it with each call: <code className="text-xs">Authorization: Bearer {secret.split('.')[0]}.…</code>
  </>
)

function KeyRow({ known }: { readonly known: Key }) {
  const revoke = useCall('revokeKey')
  const ended = known.revokedAt !== null || hasPassed(known.expiresAt)
  return (
    <tr className={`border-t border-hair/60 align-top ${ended ? 'text-soft' : ''}`}>
      <td className="py-1.5 pr-3">{known.name}</td>
      <td className="px-3 py-1.5">
        <code className="text-xs">{known.begins}</code>
      </td>
      <td className="px-3 py-1.5">
        {known.person}
        {known.team && <span className="block text-xs text-soft">for {known.team}</span>}
      </td>
      <td className="px-3 py-1.5">{known.scopes.join(', ')}</td>
      <td className="px-3 py-1.5">{known.lastUsedAt ? <When at={known.lastUsedAt} /> : 'never'}</td>
      <td className="px-3 py-1.5">
        {known.revokedAt ? (
          <>
            revoked <When at={known.revokedAt} />
          </>
        ) : known.expiresAt ? (
          <When at={known.expiresAt} />
        ) : (
          'never'
        )}
        {!ended && known.formerUntil && !hasPassed(known.formerUntil) && (
          <span className="block text-xs text-ochre">
            previous secret expires <When at={known.formerUntil} />
          </span>
        )}
      </td>
      <td className="py-1.5 pl-3 text-right whitespace-nowrap">
        {!ended && (
          <>
            <SecretButton
              look="link"
              title={`Rotate the secret of ${known.name}`}
              label="Rotate secret"
              content={(onMade, close) => <RotateForm id={known.id} onMade={onMade} onClose={close} />}
              use={bearer}
            />
            <SureButton
              className="ml-3"
              label="Revoke"
              sure="Revoke for good"
              onSure={() => revoke.mutate({ params: { id: known.id } })}
            />
          </>
        )}
      </td>
    </tr>
  )
}

interface FormProps {
  readonly onClose: () => void
  readonly onMade: (secret: string) => void
}

const keySchema = v.object({
  name: filled('Enter the program’s name.'),
  days: wholeOrNone(1),
  team: orNone,
  scopes: v.array(v.picklist(SCOPES)),
})

function KeyForm({ onClose, onMade }: FormProps) {
  const person = usePerson()
  const teams = useAnswer('teams').data?.filter(({ members }) => members.includes(person.name))
  const entry = useEntry({
    schema: keySchema,
    start: { name: '', days: '365', team: '', scopes: ['read agreements'] },
    send: (body) => call('makeKey', { body }),
    onDone: ({ secret }) => onMade(secret),
  })
  const scopes = entry.value('scopes')
  return (
    <Form entry={entry} submit="Create key" disabled={scopes.length === 0} onClose={onClose}>
      <TextField
        label="Program"
        hint="Its name stands in the trail of what it starts."
        of={entry.at('name')}
        autoFocus
        maxLength={200}
      />
      <fieldset className="text-sm">
        <legend className="mb-1 font-semibold">Scopes</legend>
        <Choices names={SCOPES} chosen={scopes} onChange={(chosen) => entry.set('scopes', chosen)} />
        <p className="mt-1 text-xs text-soft">The key can never do more than {person.name} may.</p>
      </fieldset>
      {teams && teams.length > 0 && (
        <SelectField
          label="Owner"
          hint={`A team’s key may do no more than the team, and stays valid under another member’s name when ${person.name} leaves.`}
          of={entry.at('team')}
          options={[['', person.name], ...teams.map(({ id, name }) => [id, `the team ${name}`] as const)]}
        />
      )}
      <SelectField
        label="Expires"
        of={entry.at('days')}
        options={[
          ['90', 'in 90 days'],
          ['365', 'in 365 days'],
          ['', 'never'],
        ]}
      />
    </Form>
  )
}

const rotateSchema = v.object({ hours: whole(0) })

function RotateForm({ id, onClose, onMade }: FormProps & { readonly id: string }) {
  const entry = useEntry({
    schema: rotateSchema,
    start: { hours: '24' },
    send: (body) => call('rotateKey', { params: { id }, body }),
    onDone: ({ secret }) => onMade(secret),
  })
  return (
    <Form entry={entry} submit="Rotate secret" onClose={onClose}>
      <SelectField
        label="The present secret stays valid"
        of={entry.at('hours')}
        options={[
          ['0', 'not at all'],
          ['24', 'for 1 day'],
          ['168', 'for 7 days'],
        ]}
      />
    </Form>
  )
}
