import { KeyRound } from 'lucide-react'
import { useState } from 'react'
import type { Api } from '#contract/api.ts'
import { type Scope, SCOPES } from '#contract/scope.ts'
import type { Answer } from '#contract/route.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { usePerson } from '#web/frame/person.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'
import { Input, Labelled, Select } from '#web/parts/input.tsx'
import { Empty, Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { hasPassed, When } from '#web/parts/signs/when.tsx'
import { Choices } from './choices.tsx'
import { FoldersPart } from './folders-part.tsx'
import { Secret } from './secret.tsx'
import { SettingsPlaces } from './settings-head.tsx'
import { WebhooksPart } from './webhooks-part.tsx'

type Key = Answer<Api['keys']>[number]

/** Keys that programs call with: made, exchanged, taken back. A secret is shown once. */
export default function KeysPage() {
  const keys = useAnswer('keys', {}, { every: 15_000 })
  const [making, setMaking] = useState(false)
  const [rotating, setRotating] = useState<Key | null>(null)
  const [secret, setSecret] = useState<string | null>(null)
  if (keys.isPending) return <Loading />
  if (keys.isError) return <Failed error={keys.error} retry={() => void keys.refetch()} />
  return (
    <div className="h-full overflow-auto">
      <div className="mx-auto max-w-5xl px-6 pt-4 pb-10">
        <SettingsPlaces />
        <div className="mt-4 flex items-start gap-4">
          <div>
            <h1 className="text-xl">Programs</h1>
            <p className="max-w-2xl text-sm text-soft">
              A program that starts or follows agreements calls with a key. It may what its person may, and of
              that only what its scopes name.
            </p>
          </div>
          <Button kind="main" className="ml-auto" onClick={() => setMaking(true)}>
            <KeyRound size={14} /> Make a key
          </Button>
        </div>
        {keys.data.length === 0 ? (
          <Empty title="No program calls yet">
            Make a key, give it to the program, and see here when it was used last.
          </Empty>
        ) : (
          <div className="mt-3" role="region" aria-label="Keys">
            <table className="w-full text-sm">
              <thead className="sticky top-0 bg-paper text-left text-xs text-soft">
                <tr>
                  <th className="py-1 pr-3 font-normal">Name</th>
                  <th className="px-3 py-1 font-normal">Begins with</th>
                  <th className="px-3 py-1 font-normal">As</th>
                  <th className="px-3 py-1 font-normal">Scopes</th>
                  <th className="px-3 py-1 font-normal">Last used</th>
                  <th className="px-3 py-1 font-normal">Counts until</th>
                  <th className="py-1 pl-3" />
                </tr>
              </thead>
              <tbody>
                {keys.data.map((key) => (
                  <KeyRow key={key.id} known={key} onRotate={() => setRotating(key)} />
                ))}
              </tbody>
            </table>
          </div>
        )}
        <WebhooksPart />
        <FoldersPart />
        <Dialog title="A key for a program" open={making} onClose={() => setMaking(false)}>
          <KeyForm
            onClose={() => setMaking(false)}
            onMade={(made) => {
              setMaking(false)
              setSecret(made)
            }}
          />
        </Dialog>
        <Dialog
          title={`Another secret for ${rotating?.name ?? ''}`}
          open={rotating !== null}
          onClose={() => setRotating(null)}
        >
          {rotating && (
            <RotateForm
              id={rotating.id}
              onClose={() => setRotating(null)}
              onMade={(made) => {
                setRotating(null)
                setSecret(made)
              }}
            />
          )}
        </Dialog>
        <Dialog title="The key, shown this once" open={secret !== null} onClose={() => setSecret(null)}>
          {secret !== null && (
            <Secret secret={secret} onClose={() => setSecret(null)}>
              Sent with each call:{' '}
              <code className="text-xs">Authorization: Bearer {secret.split('.')[0]}.…</code>
            </Secret>
          )}
        </Dialog>
      </div>
    </div>
  )
}

function KeyRow({ known, onRotate }: { readonly known: Key; readonly onRotate: () => void }) {
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
            taken back <When at={known.revokedAt} />
          </>
        ) : known.expiresAt ? (
          <When at={known.expiresAt} />
        ) : (
          'no end'
        )}
        {!ended && known.formerUntil && !hasPassed(known.formerUntil) && (
          <span className="block text-xs text-ochre">
            the secret before counts until <When at={known.formerUntil} />
          </span>
        )}
      </td>
      <td className="py-1.5 pl-3 text-right whitespace-nowrap">
        {!ended && (
          <>
            <button className="text-petrol underline" onClick={onRotate}>
              Another secret
            </button>
            <SureButton
              className="ml-3"
              label="Take back"
              sure="Take back for good"
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

const DAYS = [
  ['90', '90 days'],
  ['365', 'a year'],
  ['', 'until it is taken back'],
] as const

function KeyForm({ onClose, onMade }: FormProps) {
  const person = usePerson()
  const [name, setName] = useState('')
  const [days, setDays] = useState('365')
  const [team, setTeam] = useState('')
  const teams = useAnswer('teams').data?.filter(({ members }) => members.includes(person.name))
  const [scopes, setScopes] = useState<readonly Scope[]>(['read agreements'])
  const make = useCall('makeKey', ({ secret }) => onMade(secret))
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate({ body: { name, scopes, team: team || null, days: days === '' ? null : Number(days) } })
      }}
    >
      <Labelled label="Which program it is for" hint="Stands in the trail of what it starts.">
        <Input autoFocus maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <fieldset className="text-sm">
        <legend className="mb-1 font-semibold">What it may</legend>
        <Choices names={SCOPES} chosen={scopes} onChange={setScopes} />
        <p className="mt-1 text-xs text-soft">Never more than {person.name} may.</p>
      </fieldset>
      {teams && teams.length > 0 && (
        <Labelled
          label="Bound to"
          hint={`A team’s key may no more than that team, and goes on in another member’s name when ${person.name} leaves.`}
        >
          <Select value={team} onChange={(event) => setTeam(event.target.value)}>
            <option value="">{person.name}</option>
            {teams.map((each) => (
              <option key={each.id} value={each.id}>
                the team {each.name}
              </option>
            ))}
          </Select>
        </Labelled>
      )}
      <Labelled label="How long it counts">
        <Span spans={DAYS} value={days} onChange={setDays} />
      </Labelled>
      <FormEnd
        label="Make the key"
        busy={make.isPending}
        disabled={name.trim() === '' || scopes.length === 0}
        onClose={onClose}
      />
    </form>
  )
}

const HOURS = [
  ['0', 'not any more'],
  ['24', 'a day'],
  ['168', 'a week'],
] as const

function RotateForm({ id, onClose, onMade }: FormProps & { readonly id: string }) {
  const [hours, setHours] = useState('24')
  const rotate = useCall('rotateKey', ({ secret }) => onMade(secret))
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        rotate.mutate({ params: { id }, body: { hours: Number(hours) } })
      }}
    >
      <Labelled label="How long the present secret counts beside the new one">
        <Span spans={HOURS} value={hours} onChange={setHours} />
      </Labelled>
      <FormEnd label="Make another secret" busy={rotate.isPending} onClose={onClose} />
    </form>
  )
}

/** A time that is chosen out of a few. */
function Span({
  spans,
  value,
  onChange,
}: {
  readonly spans: readonly (readonly [value: string, said: string])[]
  readonly value: string
  readonly onChange: (value: string) => void
}) {
  return (
    <Select value={value} onChange={(event) => onChange(event.target.value)}>
      {spans.map(([each, said]) => (
        <option key={each} value={each}>
          {said}
        </option>
      ))}
    </Select>
  )
}
