import { type ReactNode, useRef, useState } from 'react'
import { useCall } from '#web/api/client.ts'
import { renew } from '#web/api/queries.ts'
import { Input } from '#web/parts/input.tsx'
import { Loading } from '#web/parts/states.tsx'
import { type Setup, useRun } from '#web/areas/runs/open-run/use-run.ts'
import { PerRow } from './per-row.tsx'
import { RowRule } from './row-rule.tsx'
import { Sources } from './sources.tsx'
import type { SectionProps } from './section.ts'

/** The whole set-up on one page; each change is saved and checked at once, its effect stands beside it. */
export function RunSetup() {
  const { run, setup, may } = useRun()
  const { shown, change } = useChanges(run.id, setup)
  if (!shown) return <Loading />
  const locked = !may || shown.locked
  const part = { setup: shown, locked, change }
  return (
    <div className="min-h-0 flex-1 overflow-auto px-4 pb-8">
      {shown.locked && (
        <p className="mt-3 border-l-2 border-ochre pl-3 text-sm">
          The agreements are being made. Pause the run to change its set-up.
        </p>
      )}
      <Section title="Where each value comes from">
        <Sources {...part} />
      </Section>
      <Section
        title="Which rows"
        hint="A condition over the source’s columns. What it leaves out stays listed with the reason."
      >
        <RowRule key={shown.setup.rule ?? ''} {...part} />
      </Section>
      <Section
        title="Several rows, one agreement"
        hint="Rows that agree in these columns become one agreement; each of them is an item of its list."
      >
        <Grouping {...part} />
      </Section>
      <Section
        title="The same customer twice"
        hint="In the source, or with an agreement from this template that has not ended."
      >
        <Duplicates {...part} />
      </Section>
      <Section title="What else a row says">
        <PerRow {...part} />
      </Section>
      <Section title="Name">
        <Names key={`${run.name}${shown.setup.fileName ?? ''}`} {...part} />
      </Section>
    </div>
  )
}

/**
 * Changes of the set-up, sent one after the other. Each is made from the one before, whether the server has answered that
 * or not: two in quick succession are both kept.
 */
function useChanges(id: string, setup: Setup | null) {
  const save = useCall('changeRun')
  const [ahead, setAhead] = useState<Setup | null>(null)
  const newest = useRef<Setup | null>(null)
  const sending = useRef<Promise<void>>(Promise.resolve())
  const change: SectionProps['change'] = (next) => {
    const now = newest.current ?? setup
    if (!now) return
    const body = next(now)
    const made = { ...now, mapping: body.mapping ?? now.mapping, setup: body.setup ?? now.setup }
    newest.current = made
    setAhead(made)
    sending.current = sending.current.then(async () => {
      // A refusal is told by the call itself; what the server has then is shown again.
      await save.mutateAsync({ params: { id }, body }).catch(() => renew('runSetup'))
      if (newest.current !== made) return
      newest.current = null
      setAhead(null)
    })
  }
  return { shown: ahead ?? setup, change }
}

function Section({
  title,
  hint,
  children,
}: {
  readonly title: string
  readonly hint?: string
  readonly children: ReactNode
}) {
  return (
    <section aria-label={title} className="border-b border-hair py-3 last:border-b-0">
      <h2 className="text-base">{title}</h2>
      {hint && <p className="mb-1.5 text-xs text-soft">{hint}</p>}
      {children}
    </section>
  )
}

const look = 'rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-sm'

function Grouping({ setup, locked, change }: SectionProps) {
  const { groupBy } = setup.setup
  const set = (next: readonly string[]) => change((now) => ({ setup: { ...now.setup, groupBy: [...next] } }))
  const hasList = setup.fields.some(({ type }) => type === 'list')
  if (!hasList && groupBy.length === 0)
    return <p className="text-sm text-soft">This template has no list that rows could fill.</p>
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      {groupBy.map((name) => (
        <button
          key={name}
          disabled={locked}
          className="rounded-sm bg-petrol-wash px-2 py-0.5 text-petrol"
          aria-label={`Do not group by ${name}`}
          onClick={() => set(groupBy.filter((each) => each !== name))}
        >
          {name} ×
        </button>
      ))}
      <select
        aria-label="Group by a column"
        className={look}
        disabled={locked}
        value=""
        onChange={(event) => event.target.value && set([...groupBy, event.target.value])}
      >
        <option value="">{groupBy.length ? 'and by …' : 'each row is one agreement'}</option>
        {setup.columns
          .filter(({ name }) => !groupBy.includes(name))
          .map(({ name }) => (
            <option key={name}>{name}</option>
          ))}
      </select>
    </div>
  )
}

function Duplicates({ setup, locked, change }: SectionProps) {
  const plain = setup.fields.filter(({ type, list }) => type !== 'list' && list === null)
  const feeding = new Set(Object.values(setup.mapping))
  const others = setup.columns.filter(({ name }) => !feeding.has(name))
  const { found, ...known } = setup.knownBy
  const by = setup.setup.sameBy ?? known
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm">
      <select
        aria-label="What to do about the same customer twice"
        className={look}
        disabled={locked}
        value={setup.setup.duplicates}
        onChange={(event) =>
          change((now) => ({ setup: { ...now.setup, duplicates: event.target.value as 'ask' | 'allow' } }))
        }
      >
        <option value="ask">ask me about it</option>
        <option value="allow">make them all</option>
      </select>
      {setup.setup.duplicates === 'ask' && (
        <label className="flex items-center gap-2">
          known by
          <select
            aria-label="What customers are known by"
            className={look}
            disabled={locked}
            value={JSON.stringify('column' in by ? { column: by.column } : { field: by.field })}
            onChange={(event) =>
              change((now) => ({
                setup: { ...now.setup, sameBy: JSON.parse(event.target.value) as typeof now.setup.sameBy },
              }))
            }
          >
            <optgroup label="Fields">
              {plain.map(({ name, label }) => (
                <option key={name} value={JSON.stringify({ field: name })}>
                  {label}
                </option>
              ))}
            </optgroup>
            {others.length > 0 && (
              <optgroup label="Columns that feed no field">
                {others.map(({ name }) => (
                  <option key={name} value={JSON.stringify({ column: name })}>
                    {name}
                  </option>
                ))}
              </optgroup>
            )}
          </select>
          {found && setup.setup.sameBy === null && (
            <span className="text-soft">It is the same where names are written differently.</span>
          )}
        </label>
      )}
    </div>
  )
}

function Names({ setup, locked, change }: SectionProps) {
  const { run } = useRun()
  const [name, setName] = useState(run.name)
  const [pattern, setPattern] = useState(setup.setup.fileName ?? '')
  return (
    <div className="grid grid-cols-2 gap-3 text-sm">
      <label>
        <span className="mb-0.5 block text-soft">Name of the run</span>
        <Input
          value={name}
          disabled={locked}
          maxLength={200}
          onChange={(event) => setName(event.target.value)}
          onBlur={() => name.trim() && name !== run.name && change(() => ({ name }))}
        />
      </label>
      <label>
        <span className="mb-0.5 block text-soft">Names of the files</span>
        <Input
          value={pattern}
          disabled={locked}
          placeholder="as the template says"
          onChange={(event) => setPattern(event.target.value)}
          onBlur={() =>
            pattern !== (setup.setup.fileName ?? '') &&
            change((now) => ({ setup: { ...now.setup, fileName: pattern.trim() || null } }))
          }
        />
      </label>
    </div>
  )
}
