import { Plus, Trash2 } from 'lucide-react'
import * as v from 'valibot'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { SettingsPlaces } from '#web/areas/programs/settings-head.tsx'
import { Button } from '#web/parts/button.tsx'
import { filled } from '#web/parts/form/entries.ts'
import { type Entry, useEntry } from '#web/parts/form/use-entry.ts'
import { Input } from '#web/parts/input.tsx'
import {
  organisationEntries,
  OrganisationForm,
  organisationSchema,
} from '#web/parts/form/organisation-form.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { count } from '#web/parts/signs/when.tsx'

type Settings = Answer<Api['settings']>

/** Whose installation this is, how its agreements are numbered, and which of its words mean the same. */
export default function SettingsPage() {
  const settings = useAnswer('settings')
  if (settings.isPending) return <Loading />
  if (settings.isError) return <Failed error={settings.error} retry={() => void settings.refetch()} />
  return <SettingsForm key={settings.data.version} kept={settings.data} />
}

const settingsSchema = v.object({
  organisation: organisationSchema,
  series: v.array(v.object({ id: v.string(), pattern: filled('Enter a pattern.') })),
})
type Entries = v.InferInput<typeof settingsSchema>

function SettingsForm({ kept }: { readonly kept: Settings }) {
  const say = useNotice()
  const entry = useEntry({
    schema: settingsSchema,
    start: {
      organisation: organisationEntries(kept.organisation),
      series: kept.series.map(({ id, pattern }) => ({ id, pattern })),
    },
    send: (entered) => call('changeSettings', { body: { version: kept.version, ...entered } }),
    onDone: () => say('Settings saved.'),
  })
  return (
    <div className="h-full overflow-auto">
      <form noValidate className="mx-auto max-w-4xl px-6 pt-4 pb-10" onSubmit={entry.submit}>
        <SettingsPlaces />
        <div className="sticky top-0 z-10 flex items-center gap-3 border-b border-hair bg-paper py-2">
          <h1 className="text-xl">Settings</h1>
          <span className="ml-auto text-sm text-brick" role="alert">
            {entry.refusal}
          </span>
          {entry.changed && (
            <Button kind="quiet" onClick={entry.reset}>
              Discard changes
            </Button>
          )}
          <Button kind="main" type="submit" disabled={!entry.changed} busy={entry.busy}>
            Save settings
          </Button>
        </div>
        <section aria-label="Organization" className="border-b border-hair py-4">
          <h2 className="text-lg">Organization</h2>
          <p className="mb-3 text-sm text-soft">
            New seals, emails and signing pages state it. What was sealed or sent before stays unchanged.
          </p>
          <OrganisationForm
            bills
            at={(name) => entry.at(`organisation.${name}`)}
            language={entry.value('organisation.language')}
            timeZone={entry.value('organisation.timeZone')}
          />
        </section>
        <Numbers entry={entry} series={kept.series} />
        <Synonyms entry={entry} />
      </form>
    </div>
  )
}

function Numbers({ entry, series }: { readonly entry: Entry<Entries>; readonly series: Settings['series'] }) {
  return (
    <section aria-label="Agreement numbers" className="border-b border-hair py-4">
      <h2 className="text-lg">Agreement numbers</h2>
      <p className="mb-3 text-sm text-soft">
        <code>{'{n}'}</code> is the running number of its series, without gaps. A new pattern continues the
        count.
      </p>
      <ul className="text-sm">
        {series.map(({ id, templates, lastNumber }, i) => {
          const { fault, ...register } = entry.at(`series.${i}.pattern`)
          return (
            <li key={id} className="flex items-center gap-4 border-b border-hair/60 py-1.5">
              <Input
                aria-label={`Pattern of ${id}`}
                className="max-w-52"
                aria-invalid={fault !== null}
                {...register}
              />
              <span className="text-soft">
                {templates === 1 ? '1 template' : `${count(templates)} templates`},{' '}
                {lastNumber ? `${count(lastNumber)} numbers given` : 'none given yet'}
              </span>
              <span className="text-brick">{fault}</span>
            </li>
          )
        })}
      </ul>
    </section>
  )
}

function Synonyms({ entry }: { readonly entry: Entry<Entries> }) {
  const groups = entry.value('organisation.synonyms')
  const put = (next: string[]) => entry.set('organisation.synonyms', next)
  return (
    <section aria-label="Synonyms" className="py-4">
      <h2 className="text-lg">Synonyms</h2>
      <p className="mb-3 text-sm text-soft">
        Columns of sheets are matched to fields by their words. Add words of your trade that mean the same,
        with commas between.
      </p>
      <ul className="flex flex-col gap-1.5">
        {groups.map((group, i) => (
          <li key={i} className="flex items-center gap-2">
            <Input
              aria-label={`Group ${i + 1}`}
              className="max-w-xl"
              aria-invalid={entry.at(`organisation.synonyms.${i}`).fault !== null}
              value={group}
              onChange={({ target }) => put(groups.with(i, target.value))}
            />
            <Button
              kind="quiet"
              aria-label={`Remove group ${i + 1}`}
              onClick={() => put(groups.filter((_, at) => at !== i))}
            >
              <Trash2 size={13} />
            </Button>
            <span className="text-sm text-brick">{entry.at(`organisation.synonyms.${i}`).fault}</span>
          </li>
        ))}
      </ul>
      <Button className="mt-2" onClick={() => put([...groups, ''])}>
        <Plus size={14} /> Add group
      </Button>
    </section>
  )
}
