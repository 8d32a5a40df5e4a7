import * as v from 'valibot'
import { call } from '#web/api/client.ts'
import { Button } from '#web/parts/button.tsx'
import { email, filled } from '#web/parts/form/entries.ts'
import { TextField } from '#web/parts/form/fields.tsx'
import { Refusal } from '#web/parts/form/form.tsx'
import { useEntry } from '#web/parts/form/use-entry.ts'
import { OrganisationForm, organisationSchema } from '#web/parts/form/organisation-form.tsx'
import { Wordmark } from './wordmark.tsx'

const foundingSchema = v.object({
  code: filled('Enter the code that the server showed when it started.'),
  organisation: organisationSchema,
  pattern: filled('Enter a pattern.'),
  administrator: v.object({
    name: filled('Enter your name.'),
    email,
    post: filled('Enter your position.'),
    password: v.pipe(v.string(), v.minLength(12, 'A password has at least 12 characters.')),
  }),
})

/** What the browser knows of whoever founds the installation. */
const start = (): v.InferInput<typeof foundingSchema> => ({
  code: new URLSearchParams(location.search).get('code') ?? '',
  organisation: {
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
  },
  pattern: `A-${new Date().getFullYear()}-{n}`,
  administrator: { name: '', email: '', post: 'administrator', password: '' },
})

/** The first page of a fresh installation: whose it is, and who administers it. */
export function FirstRun() {
  const entry = useEntry({
    schema: foundingSchema,
    start: start(),
    send: (body) => call('found', { body }),
    onDone: () => history.replaceState(null, '', '/desk'),
  })
  return (
    <main className="mx-auto max-w-3xl px-6 py-8">
      <Wordmark />
      <h1 className="mt-6 text-2xl">Set up Brevan</h1>
      <p className="mt-1 text-soft">
        Enter the organization and its administrator. Everything can be changed later in Settings.
      </p>
      <form noValidate className="mt-5 flex flex-col gap-6" onSubmit={entry.submit}>
        <section aria-label="Organization">
          <h2 className="mb-2 border-b border-hair pb-1 text-lg">Organization</h2>
          <OrganisationForm
            at={(name) => entry.at(`organisation.${name}`)}
            language={entry.value('organisation.language')}
            timeZone={entry.value('organisation.timeZone')}
          />
          <div className="mt-3 md:w-1/2 md:pr-2.5">
            <TextField
              label="Agreement numbers"
              hint="{n} is the running number, without gaps."
              of={entry.at('pattern')}
            />
          </div>
        </section>
        <section aria-label="Administrator">
          <h2 className="mb-2 border-b border-hair pb-1 text-lg">Administrator</h2>
          <div className="grid grid-cols-2 gap-x-5 gap-y-3 max-md:grid-cols-1">
            <TextField label="Your name" of={entry.at('administrator.name')} autoComplete="name" />
            <TextField
              label="Your position"
              of={entry.at('administrator.post')}
              autoComplete="organization-title"
            />
            <TextField
              label="Your email address"
              of={entry.at('administrator.email')}
              type="email"
              autoComplete="username"
            />
            <TextField
              label="Password"
              hint="At least 12 characters."
              of={entry.at('administrator.password')}
              type="password"
              autoComplete="new-password"
            />
          </div>
        </section>
        <div className="flex items-end gap-4 border-t border-hair pt-4">
          <div className="w-64">
            <TextField
              label="Setup code"
              hint="The server showed it when it started."
              of={entry.at('code')}
            />
          </div>
          <Button kind="main" type="submit" busy={entry.busy} className="mb-5">
            Create organization
          </Button>
          <Refusal entry={entry} className="mb-6" />
        </div>
      </form>
    </main>
  )
}
