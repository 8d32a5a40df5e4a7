import { useMutation } from '@tanstack/react-query'
import { type FormEvent, useState } from 'react'
import { Button } from '#web/parts/button.tsx'
import { Input, Labelled } from '#web/parts/input.tsx'
import { type OrganisationFields, OrganisationForm } from '#web/parts/organisation-form.tsx'
import { call } from '#web/api/client.ts'
import { faultsIn, faultsUnder, problemText } from '#web/api/problem.ts'
import { Wordmark } from './wordmark.tsx'

/** What the browser knows of whoever founds the installation. */
const nothingYet = (): OrganisationFields => ({
  name: '',
  address: '',
  place: '',
  language: navigator.language,
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  sender: '',
  synonyms: [],
  city: '',
  postCode: '',
  taxNumber: '',
  taxScheme: 'VAT',
})

/** The first page of a fresh installation: whose it is, and who administers it. */
export function FirstRun() {
  const [organisation, setOrganisation] = useState(nothingYet)
  const [pattern, setPattern] = useState(`A-${new Date().getFullYear()}-{n}`)
  const [administrator, setAdministrator] = useState({
    name: '',
    email: '',
    post: 'administrator',
    password: '',
  })
  const [code, setCode] = useState(() => new URLSearchParams(location.search).get('code') ?? '')
  const found = useMutation({
    mutationFn: () => call('found', { body: { code, organisation, pattern, administrator } }),
    onSuccess: () => history.replaceState(null, '', '/desk'),
  })
  const faults = faultsIn(found.error)
  const person = (name: keyof typeof administrator) => ({
    value: administrator[name],
    'aria-invalid': faults[`administrator/${name}`] !== undefined,
    required: true,
    onChange: (event: { target: { value: string } }) =>
      setAdministrator((before) => ({ ...before, [name]: event.target.value })),
  })
  const fault = (name: string) =>
    faults[name] && <span className="mt-1 block text-xs text-brick">{faults[name]}</span>
  return (
    <main className="mx-auto max-w-3xl px-6 py-8">
      <Wordmark />
      <h1 className="mt-6 text-2xl">The first run</h1>
      <p className="mt-1 text-soft">
        Nobody is here yet. Say whose installation this is and who administers it; all of it can be changed
        later.
      </p>
      <form
        className="mt-5 flex flex-col gap-6"
        onSubmit={(event: FormEvent) => {
          event.preventDefault()
          found.mutate()
        }}
      >
        <section aria-label="The organisation">
          <h2 className="mb-2 border-b border-hair pb-1 text-lg">The organisation</h2>
          <OrganisationForm
            value={organisation}
            faults={faultsUnder(faults, 'organisation')}
            onChange={setOrganisation}
          />
          <div className="mt-3 w-1/2 pr-2.5">
            <Labelled label="Numbers of agreements" hint="{n} is the running number, without gaps.">
              <Input
                value={pattern}
                aria-invalid={faults['pattern'] !== undefined}
                onChange={(event) => setPattern(event.target.value)}
              />
              {fault('pattern')}
            </Labelled>
          </div>
        </section>
        <section aria-label="Its administrator">
          <h2 className="mb-2 border-b border-hair pb-1 text-lg">Its administrator</h2>
          <div className="grid grid-cols-2 gap-x-5 gap-y-3">
            <Labelled label="Your name">
              <Input autoComplete="name" {...person('name')} />
              {fault('administrator/name')}
            </Labelled>
            <Labelled label="Your post">
              <Input autoComplete="organization-title" {...person('post')} />
              {fault('administrator/post')}
            </Labelled>
            <Labelled label="Your mail address">
              <Input type="email" autoComplete="username" {...person('email')} />
              {fault('administrator/email')}
            </Labelled>
            <Labelled label="A password" hint="12 characters at least.">
              <Input type="password" autoComplete="new-password" minLength={12} {...person('password')} />
              {fault('administrator/password')}
            </Labelled>
          </div>
        </section>
        <div className="flex items-end gap-4 border-t border-hair pt-4">
          <div className="w-64">
            <Labelled label="Code" hint="The server told it when it started.">
              <Input value={code} required onChange={(event) => setCode(event.target.value)} />
            </Labelled>
          </div>
          <Button kind="main" type="submit" busy={found.isPending} className="mb-5">
            Begin
          </Button>
          {found.isError && (
            <p role="alert" className="mb-6 text-sm text-brick">
              {problemText(found.error)}
            </p>
          )}
        </div>
      </form>
    </main>
  )
}
