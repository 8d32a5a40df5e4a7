import { BellRing } from 'lucide-react'
import { useState } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { ACT_NAMES, type ActName } from '#core/trail/acts.ts'
import { useAnswer, useCall } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { FormEnd } from '#web/parts/form-end.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { SureButton } from '#web/parts/sure-button.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import { Choices } from './choices.tsx'
import { Secret } from './secret.tsx'

type Hook = Answer<Api['webhooks']>[number]

/** Programs that are told of each act as it happens, with what they were told. */
export function WebhooksPart() {
  const hooks = useAnswer('webhooks', {}, { every: 5000 })
  const [making, setMaking] = useState(false)
  const [secret, setSecret] = useState<string | null>(null)
  const [shown, setShown] = useState<string | null>(null)
  if (hooks.isPending) return <Loading />
  if (hooks.isError) return <Failed error={hooks.error} retry={() => void hooks.refetch()} />
  const open = hooks.data.find(({ id }) => id === shown)
  return (
    <section aria-label="Told of what happens" className="mt-8 border-t border-hair pt-4">
      <div className="flex items-start gap-4">
        <div>
          <h2 className="text-lg">Told of what happens</h2>
          <p className="max-w-2xl text-sm text-soft">
            Each act of an agreement goes to these addresses as it happens (webhooks): signed, in order, and
            again for three days where nobody answers.
          </p>
        </div>
        <Button className="ml-auto" onClick={() => setMaking(true)}>
          <BellRing size={14} /> Have a program told
        </Button>
      </div>
      {hooks.data.length > 0 && (
        <ul className="mt-3 text-sm" aria-label="Programs that are told">
          {hooks.data.map((hook) => (
            <HookLine key={hook.id} hook={hook} onShow={() => setShown(hook.id)} />
          ))}
        </ul>
      )}
      <Dialog title="Have a program told" open={making} onClose={() => setMaking(false)}>
        <HookForm
          onClose={() => setMaking(false)}
          onMade={(made) => {
            setMaking(false)
            setSecret(made)
          }}
        />
      </Dialog>
      <Dialog
        title="What it is signed with, shown this once"
        open={secret !== null}
        onClose={() => setSecret(null)}
      >
        {secret !== null && (
          <Secret secret={secret} onClose={() => setSecret(null)}>
            The program checks by it that what it is told comes from here (Standard Webhooks).
          </Secret>
        )}
      </Dialog>
      <Dialog
        title={`What ${open?.name ?? ''} was told`}
        open={shown !== null}
        onClose={() => setShown(null)}
      >
        {open && <Log hook={open} />}
      </Dialog>
    </section>
  )
}

function HookLine({ hook, onShow }: { readonly hook: Hook; readonly onShow: () => void }) {
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
          {hook.acts.length ? hook.acts.join(', ') : 'every act'}
        </span>
      </span>
      <span className="shrink-0">
        {hook.ended ? (
          <>told nothing more: {hook.ended}</>
        ) : hook.silentSince ? (
          <span className="text-ochre">
            silent since <When at={hook.silentSince} />, {plural(hook.waiting, 'act')} waiting
            {hook.triedAgainAt && (
              <>
                , tried again <When at={hook.triedAgainAt} />
              </>
            )}
          </span>
        ) : hook.waiting ? (
          `${plural(hook.waiting, 'act')} on the way`
        ) : (
          <span className="text-moss">told everything</span>
        )}
      </span>
      <button className="shrink-0 text-petrol underline" onClick={onShow}>
        Log
      </button>
      {!hook.ended && (
        <SureButton
          className="shrink-0"
          label="Tell nothing more"
          sure="Tell nothing more, for good"
          onSure={() => drop.mutate({ params: { id: hook.id } })}
        />
      )}
    </li>
  )
}

function HookForm({
  onClose,
  onMade,
}: {
  readonly onClose: () => void
  readonly onMade: (secret: string) => void
}) {
  const [name, setName] = useState('')
  const [url, setUrl] = useState('')
  const [all, setAll] = useState(true)
  const [acts, setActs] = useState<readonly ActName[]>([])
  const make = useCall('makeWebhook', ({ secret }) => onMade(secret))
  return (
    <form
      className="flex flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault()
        make.mutate({ body: { name, url, acts: all ? [] : acts } })
      }}
    >
      <Labelled label="Which program it is">
        <Input autoFocus maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
      </Labelled>
      <Labelled
        label="Its address"
        hint="Addresses inside this server’s own network are not called unless its settings allow them."
      >
        <Input
          type="url"
          maxLength={1000}
          placeholder="https://"
          value={url}
          onChange={(event) => setUrl(event.target.value)}
        />
      </Labelled>
      <fieldset className="text-sm">
        <legend className="mb-1 font-semibold">What it is told</legend>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={all} onChange={(event) => setAll(event.target.checked)} />
          every act, those to come too
        </label>
        {!all && (
          <div className="mt-2 grid max-h-52 grid-cols-3 gap-x-3 overflow-auto border border-hair p-2">
            <Choices names={ACT_NAMES} chosen={acts} onChange={setActs} />
          </div>
        )}
      </fieldset>
      <FormEnd
        label="Have it told"
        busy={make.isPending}
        disabled={name.trim() === '' || url.trim() === '' || (!all && acts.length === 0)}
        onClose={onClose}
      />
    </form>
  )
}

function Log({ hook }: { readonly hook: Hook }) {
  const log = useAnswer('deliveries', { params: { id: hook.id } }, { every: 3000 })
  const again = useCall('tellAgain')
  if (log.isPending) return <Loading />
  if (log.isError) return <Failed error={log.error} retry={() => void log.refetch()} />
  if (log.data.length === 0)
    return <p className="text-sm text-soft">Nothing yet. The next act is told at once.</p>
  return (
    <ul className="text-sm" aria-label="Acts">
      {log.data.map((each) => (
        <li key={each.id} className="border-b border-hair/60 py-1.5">
          <p className="flex gap-2">
            <span className="min-w-0 flex-1 truncate">
              {each.number}, {each.seq}: <span className="font-semibold">{each.act}</span>
            </span>
            <span className={each.state === 'given up' ? 'text-brick' : 'text-soft'}>
              {each.state}
              {each.status !== null && ` (${each.status})`}
              {each.tries > 1 && `, ${each.tries} tries`}, <When at={each.endedAt ?? each.at} />
            </span>
            {!hook.ended && each.state !== 'waiting' && (
              <button
                className="text-petrol underline"
                onClick={() => again.mutate({ params: { id: hook.id, delivery: each.id } })}
              >
                Again
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
