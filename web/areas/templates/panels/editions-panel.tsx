import { useState } from 'react'
import type { Answer } from '#contract/route.ts'
import type { Api } from '#contract/api.ts'
import { useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { plural, When } from '#web/parts/signs/when.tsx'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'
import { CompareView } from './compare-view.tsx'

type Side = number | 'draft'

/** What was published when, and what any two states differ in; an edition can be brought back as the draft. */
export function EditionsPanel({ template }: { readonly template: Answer<Api['template']> }) {
  const { content, editable, change } = useStudio()
  const say = useNotice()
  const newest = template.editions[0]?.number ?? null
  const [from, setFrom] = useState<Side | null>(null)
  const [to, setTo] = useState<Side>('draft')
  const left = from ?? newest
  const one = useEdition(template.id, left)
  const other = useEdition(template.id, to)
  const before = left === 'draft' ? content : one.data
  const after = to === 'draft' ? content : other.data
  const name = (side: Side | null) => (side === 'draft' ? 'the draft' : `edition ${side ?? ''}`)
  const sides = (label: string, value: Side | null, onChange: (side: Side) => void) => (
    <label className="text-sm text-soft">
      {label}
      <select
        className="ml-1.5 rounded-sm border border-hair bg-sheet px-1.5 py-0.5 text-ink"
        value={String(value ?? '')}
        onChange={(event) => onChange(event.target.value === 'draft' ? 'draft' : Number(event.target.value))}
      >
        <option value="draft">the draft</option>
        {template.editions.map(({ number }) => (
          <option key={number} value={number}>
            edition {number}
          </option>
        ))}
      </select>
    </label>
  )
  return (
    <div className="min-h-0 overflow-auto p-5" tabIndex={0} role="region" aria-label="Editions">
      {template.importReport.length > 0 && <ImportReport report={template.importReport} />}
      {template.editions.length === 0 ? (
        <p className="text-sm text-soft">
          Nothing is published yet. An edition never changes; agreements remember theirs.
        </p>
      ) : (
        <table className="mb-5 w-full text-left text-sm">
          <tbody>
            {template.editions.map((edition) => (
              <tr key={edition.number} className="border-b border-hair/60">
                <td className="py-1 font-semibold">Edition {edition.number}</td>
                <td>
                  <When at={edition.publishedAt} />
                </td>
                <td>{edition.publishedBy}</td>
                <td className="max-w-52 truncate text-soft">{edition.note}</td>
                <td className={edition.cases.failed.length ? 'text-brick' : 'text-soft'}>
                  {edition.cases.failed.length
                    ? `${plural(edition.cases.failed.length, 'case')} failed: ${edition.cases.failed.join(', ')}`
                    : edition.cases.passed
                      ? `${plural(edition.cases.passed, 'case')} passed`
                      : ''}
                </td>
                <td className="text-right">
                  <Button kind="quiet" onClick={() => (setFrom(edition.number), setTo('draft'))}>
                    Compare
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {template.editions.length > 0 && (
        <>
          <div className="mb-3 flex items-center gap-4">
            {sides('From', left, setFrom)}
            {sides('to', to, setTo)}
            {editable && typeof left === 'number' && one.data && (
              <Button
                className="ml-auto"
                onClick={() => {
                  const restored = one.data
                  change(() => restored)
                  say(`The draft says what edition ${left} says. Undo brings back what it said before.`)
                }}
              >
                Bring edition {left} back as the draft
              </Button>
            )}
          </div>
          {(one.isError || other.isError) && <Failed error={one.error ?? other.error} />}
          {before && after ? (
            <CompareView before={before} after={after} names={[name(left), name(to)]} />
          ) : (
            <Loading />
          )}
        </>
      )}
    </div>
  )
}

function useEdition(id: string, side: Side | null) {
  return useAnswer(
    'edition',
    { params: { id, number: typeof side === 'number' ? side : 0 } },
    { enabled: typeof side === 'number' },
  )
}

export function ImportReport({ report }: { readonly report: Answer<Api['template']>['importReport'] }) {
  return (
    <details className="mb-5 border-l-2 border-ochre pl-4 text-sm" open>
      <summary className="font-semibold">From the document: {plural(report.length, 'remark')}</summary>
      <ul className="mt-1">
        {report.map(({ kind, what, place, count }) => (
          <li key={what} className="py-0.5">
            <span
              className={kind === 'left out' ? 'text-brick' : kind === 'changed' ? 'text-ochre' : 'text-moss'}
            >
              {kind}:
            </span>{' '}
            {what}
            {count > 1 && ` (${count} times)`}
            {place && <span className="block truncate text-xs text-soft">near “{place}”</span>}
          </li>
        ))}
      </ul>
    </details>
  )
}
