import { BellRing } from 'lucide-react'
import * as v from 'valibot'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { ACT_NAMES } from '#core/trail/acts.ts'
import { call, useAnswer, useCall } from '#web/api/client.ts'
import { DialogButton } from '#web/parts/dialog-button.tsx'
import { filled } from '#web/parts/form/entries.ts'
import { RadioField, TextField } from '#web/parts/form/fields.tsx'
import { Form } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { SecretButton } from '#web/parts/secret-button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import { Choices } from './choices.tsx'

type Hook = Answer<Api['webhooks']>[number]

/** Addresses that each event of an agreement goes to as it happens, with what was sent to them. */
export function WebhooksPart() {
  const hooks = useAnswer('webhooks', {}, { every: 5000 })
  if (hooks.isPending) return <Loading />
  if (hooks.isError) return <Failed error={hooks.error} retry={() => void hooks.refetch()} />
  return (
    <section aria-label="Webhooks" className="mt-8 border-t border-hair pt-4">
      <div className="flex items-start gap-4">
        <div>
          <h2 className="text-lg">Webhooks</h2>
          <p className="max-w-2xl text-sm text-soft">
            Each event of an agreement is sent to these addresses as it happens: signed, in order, and again
            for three days if there is no response.
          </p>
        </div>
        <SecretButton
          className="ml-auto"
          title="Add a webhook"
          label={
            <>
              <BellRing size={14} /> Add webhook
            </>
          }
          content={(onMade, close) => <HookForm onMade={onMade} onClose={close} />}
          use={() => 'The program checks with it that an event comes from here (Standard Webhooks).'}
        />
      </div>
      {hooks.data.length > 0 && (
        <ul className="mt-3 text-sm" aria-label="Webhooks">
          {hooks.data.map((hook) => (
            <HookLine key={hook.id} hook={hook} />
          ))}
        </ul>
      )}
    </section>
  )
}

function HookLine({ hook }: { readonly hook: Hook }) {
  const drop = useCall('dropWebhook')
  return (
    <li
      className={`flex items-baseline gap-3 border-b border-hair/60 py-1.5 ${hook.ended ? 'text-soft' : ''}`}
    >
      <span className="w-40 shrink-0 truncate font-semibold">{hook.name}</span>
      <span className="min-w-0 flex-1">
        <code className="block truncate text-xs" title={hook.url}>
          {hook.url}
        </code>
        <span className="block text-xs text-soft">
          {hook.acts.length ? hook.acts.join(', ') : 'every event'}
        </span>
      </span>
      <span className="shrink-0">
        <HookState hook={hook} />
      </span>
      <DialogButton
        look="link"
        className="shrink-0"
        title={`Deliveries to ${hook.name}`}
        label="Deliveries"
        content={() => <Deliveries hook={hook} />}
      />
      {!hook.ended && (
        <SureButton
          className="shrink-0"
          label="Remove"
          sure="Remove webhook for good"
          onSure={() => drop.mutate({ params: { id: hook.id } })}
        />
      )}
    </li>
  )
}

function HookState({ hook: { ended, silentSince, triedAgainAt, waiting } }: { readonly hook: Hook }) {
  if (ended) return <>no longer sent: {ended}</>
  if (silentSince)
    return (
      <span className="text-ochre">
        failing since <When at={silentSince} />, {plural(waiting, 'event')} waiting
        {triedAgainAt && (
          <>
            , next try <When at={triedAgainAt} />
          </>
        )}
      </span>
    )
  return waiting ? <>{plural(waiting, 'event')} on the way</> : <span className="text-moss">up to date</span>
}

const hookSchema = v.object({
  name: filled('Enter the program’s name.'),
  url: filled('Enter an address.', 1000),
  which: v.picklist(['every', 'some']),
  acts: v.array(v.picklist(ACT_NAMES)),
})

function HookForm({
  onClose,
  onMade,
}: {
  readonly onClose: () => void
  readonly onMade: (secret: string) => void
}) {
  const entry = useEntry({
    schema: hookSchema,
    start: { name: '', url: '', which: 'every', acts: [] },
    send: ({ name, url, which, acts }) =>
      call('makeWebhook', { body: { name, url, acts: which === 'every' ? [] : acts } }),
    onDone: ({ secret }) => onMade(secret),
  })
  const some = entry.value('which') === 'some'
  const acts = entry.value('acts')
  return (
    <Form entry={entry} submit="Add webhook" disabled={some && acts.length === 0} onClose={onClose}>
      <TextField label="Program" of={entry.at('name')} autoFocus maxLength={200} />
      <TextField
        label="Address"
        hint="Addresses inside this server’s own network are not called unless its settings allow them."
        of={entry.at('url')}
        type="url"
        maxLength={1000}
        placeholder="https://"
      />
      <fieldset className="text-sm">
        <legend className="mb-1 font-semibold">Events</legend>
        <RadioField
          of={entry.at('which')}
          options={[
            ['every', 'every event, those added later too'],
            ['some', 'only these'],
          ]}
        />
        {some && (
          <div className="mt-2 grid max-h-52 grid-cols-3 gap-x-3 overflow-auto border border-hair p-2">
            <Choices names={ACT_NAMES} chosen={acts} onChange={(chosen) => entry.set('acts', chosen)} />
          </div>
        )}
      </fieldset>
    </Form>
  )
}

function Deliveries({ hook }: { readonly hook: Hook }) {
  const log = useAnswer('deliveries', { params: { id: hook.id } }, { every: 3000 })
  const again = useCall('tellAgain')
  if (log.isPending) return <Loading />
  if (log.isError) return <Failed error={log.error} retry={() => void log.refetch()} />
  if (log.data.length === 0)
    return <p className="text-sm text-soft">No events yet. The next one is sent at once.</p>
  return (
    <ul className="text-sm" aria-label="Deliveries">
      {log.data.map((each) => (
        <li key={each.id} className="border-b border-hair/60 py-1.5">
          <p className="flex gap-2">
            <span className="min-w-0 flex-1 truncate">
              {each.number}, {each.seq}: <span className="font-semibold">{each.act}</span>
            </span>
            <span className={each.state === 'given up' ? 'text-brick' : 'text-soft'}>
              {DELIVERY_SAID[each.state]}
              {each.status !== null && ` (${each.status})`}
              {each.tries > 1 && `, ${each.tries} tries`}, <When at={each.endedAt ?? each.at} />
            </span>
            {!hook.ended && each.state !== 'waiting' && (
              <button
                className="text-petrol underline"
                onClick={() => again.mutate({ params: { id: hook.id, delivery: each.id } })}
              >
                Send again
              </button>
            )}
          </p>
          {each.said && each.state !== 'told' && (
            <p className="text-xs wrap-anywhere text-soft">{each.said}</p>
          )}
        </li>
      ))}
    </ul>
  )
}

/** What becomes of one delivery, in the interface’s words. */
const DELIVERY_SAID: Readonly<Record<Answer<Api['deliveries']>[number]['state'], string>> = {
  waiting: 'waiting',
  told: 'delivered',
  'given up': 'retries ended',
}
