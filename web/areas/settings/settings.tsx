import { useMutation } from '@tanstack/react-query'
import { Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import { call, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { faultsIn, faultsUnder, problemText } from '#web/api/problem.ts'
import { SettingsPlaces } from '#web/areas/programs/settings-head.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { OrganisationForm } from '#web/parts/organisation-form.tsx'
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

function SettingsForm({ kept }: { readonly kept: Settings }) {
  const say = useNotice()
  const [organisation, setOrganisation] = useState(kept.organisation)
  const [patterns, setPatterns] = useState(kept.series)
  const save = useMutation({
    mutationFn: () =>
      call('changeSettings', {
        body: {
          version: kept.version,
          organisation: {
            ...organisation,
            synonyms: organisation.synonyms.filter((group) => group.some((word) => word !== '')),
          },
          series: patterns.map(({ id, pattern }) => ({ id, pattern })),
        },
      }),
    onSuccess: () => say('Saved.'),
  })
  const faults = faultsIn(save.error)
  const changed =
    JSON.stringify([organisation, patterns]) !== JSON.stringify([kept.organisation, kept.series])
  const setGroup = (at: number, text: string) =>
    setOrganisation((before) => ({
      ...before,
      synonyms: before.synonyms.map((group, i) =>
        i === at ? text.split(',').map((word) => word.trimStart()) : group,
      ),
    }))
  return (
    <div className="h-full overflow-auto">
      <form
        className="mx-auto max-w-4xl px-6 pt-4 pb-10"
        onSubmit={(event) => {
          event.preventDefault()
          save.mutate()
        }}
      >
        <SettingsPlaces />
        <div className="sticky top-0 z-10 flex items-center gap-3 border-b border-hair bg-paper py-2">
          <h1 className="text-xl">Settings</h1>
          <span className="ml-auto text-sm text-brick" role="alert">
            {save.isError && problemText(save.error)}
          </span>
          {changed && (
            <Button
              kind="quiet"
              onClick={() => {
                setOrganisation(kept.organisation)
                setPatterns(kept.series)
                save.reset()
              }}
            >
              Take back
            </Button>
          )}
          <Button kind="main" type="submit" disabled={!changed} busy={save.isPending}>
            Save
          </Button>
        </div>
        <section aria-label="The organisation" className="border-b border-hair py-4">
          <h2 className="text-lg">The organisation</h2>
          <p className="mb-3 text-sm text-soft">
            As new seals, mails and signing pages say it. What was sealed or sent before stays as it was.
          </p>
          <OrganisationForm
            bills
            value={organisation}
            faults={faultsUnder(faults, 'organisation')}
            onChange={setOrganisation}
          />
        </section>
        <section aria-label="Numbers of agreements" className="border-b border-hair py-4">
          <h2 className="text-lg">Numbers of agreements</h2>
          <p className="mb-3 text-sm text-soft">
            <code>{'{n}'}</code> is the running number of its series, without gaps. It goes on where it is.
          </p>
          <ul className="text-sm">
            {patterns.map((series, i) => (
              <li key={series.id} className="flex items-center gap-4 border-b border-hair/60 py-1.5">
                <Input
                  aria-label={`Pattern of ${series.id}`}
                  className="max-w-52"
                  value={series.pattern}
                  aria-invalid={faults[`series/${i}/pattern`] !== undefined}
                  onChange={(event) =>
                    setPatterns((before) =>
                      before.map((each) =>
                        each.id === series.id ? { ...each, pattern: event.target.value } : each,
                      ),
                    )
                  }
                />
                <span className="text-soft">
                  {series.templates === 1 ? '1 template' : `${count(series.templates)} templates`},{' '}
                  {series.lastNumber ? `${count(series.lastNumber)} numbers given` : 'none given yet'}
                </span>
                <span className="text-brick">{faults[`series/${i}/pattern`]}</span>
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="Words that mean the same" className="py-4">
          <h2 className="text-lg">Words that mean the same</h2>
          <p className="mb-3 text-sm text-soft">
            Columns of sheets are matched to fields by their words; here are those of your own trade, with
            commas between.
          </p>
          <ul className="flex flex-col gap-1.5">
            {organisation.synonyms.map((group, i) => (
              <li key={i} className="flex items-center gap-2">
                <Input
                  aria-label={`Group ${i + 1}`}
                  className="max-w-xl"
                  value={group.join(', ')}
                  aria-invalid={faults[`organisation/synonyms/${i}`] !== undefined}
                  onChange={(event) => setGroup(i, event.target.value)}
                />
                <Button
                  kind="quiet"
                  aria-label={`Leave group ${i + 1} out`}
                  onClick={() =>
                    setOrganisation((before) => ({
                      ...before,
                      synonyms: before.synonyms.filter((_, at) => at !== i),
                    }))
                  }
                >
                  <Trash2 size={13} />
                </Button>
                <span className="text-sm text-brick">{faults[`organisation/synonyms/${i}`]}</span>
              </li>
            ))}
          </ul>
          <Button
            className="mt-2"
            onClick={() => setOrganisation((before) => ({ ...before, synonyms: [...before.synonyms, ['']] }))}
          >
            <Plus size={14} /> Group
          </Button>
        </section>
      </form>
    </div>
  )
}
