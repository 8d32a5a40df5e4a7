import { useMutation } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { type CaseResult, runCase } from '#core/checks/cases.ts'
import { merge } from '#core/merge/merge.ts'
import { finishedText } from '#core/merge/text.ts'
import { call, problemText, useAnswer } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { Button } from '#web/parts/button.tsx'
import { Input } from '#web/parts/input.tsx'
import { Failed, Loading } from '#web/parts/states.tsx'
import { WordChanges } from '#web/parts/signs/word-changes.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import { useReadyTemplate, useStudio } from '#web/areas/templates/draft/studio-context.ts'

/** Sample records with the wording they must give, run with every change: which still give it, and what differs. */
export function CasesPanel() {
  const { templateId, proof, editable } = useStudio()
  const ready = useReadyTemplate()
  const say = useNotice()
  const cases = useAnswer('savedCases', { params: { id: templateId } })
  const [name, setName] = useState('')
  const [open, setOpen] = useState<string | null>(null)
  const results = useMemo(
    () => new Map(ready ? cases.data?.map((saved) => [saved.id, runCase(ready, saved)]) : []),
    [ready, cases.data],
  )
  const fault = (error: unknown) => say(problemText(error), 'fault')
  const keep = useMutation({
    mutationFn: () =>
      call('keepCase', {
        params: { id: templateId },
        body: {
          name: name.trim(),
          data: proof!.data,
          expected: [...finishedText(merge(ready!, proof!.data, null).document)],
        },
      }),
    onSuccess: () => setName(''),
    onError: fault,
  })
  const accept = useMutation({
    mutationFn: ({ id, result }: { id: string; result: CaseResult }) => {
      const saved = cases.data!.find((each) => each.id === id)!
      return call('changeCase', {
        params: { id: templateId, case: id },
        body: { name: saved.name, data: saved.data, expected: [...result.actual] },
      })
    },
    onError: fault,
  })
  const drop = useMutation({
    mutationFn: (id: string) => call('dropCase', { params: { id: templateId, case: id } }),
    onError: fault,
  })
  if (cases.isPending) return <Loading />
  if (cases.isError) return <Failed error={cases.error} retry={() => void cases.refetch()} />
  const failed = [...results.values()].filter(({ passed }) => !passed).length
  return (
    <div className="min-h-0 overflow-auto p-5" tabIndex={0} role="region" aria-label="Saved cases">
      <p className="mb-3 text-sm" role="status">
        {cases.data.length === 0
          ? 'No cases yet. Keep the row in the proof as a case: from then on every change is held against the wording it gives now.'
          : ready
            ? failed
              ? `${plural(failed, 'case')} of ${cases.data.length} gives another wording now.`
              : `${plural(cases.data.length, 'case')}, all as they must be.`
            : 'The cases wait until the template has no faults.'}
      </p>
      {editable && (
        <form
          className="mb-4 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            if (ready && proof && name.trim()) keep.mutate()
          }}
        >
          <Input
            aria-label="Name of the case"
            placeholder={proof ? `Keep ${proof.rowLabel} as …` : 'Name of the case'}
            className="max-w-72"
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
          <Button type="submit" disabled={!ready || !proof || !name.trim()} busy={keep.isPending}>
            Keep as a case
          </Button>
        </form>
      )}
      <ul className="text-sm">
        {cases.data.map((saved) => {
          const result = results.get(saved.id)
          return (
            <li key={saved.id} className="border-b border-hair/60 py-1.5">
              <div className="flex items-baseline gap-3">
                <span
                  aria-hidden
                  className={result?.passed ? 'text-moss' : result ? 'text-brick' : 'text-soft'}
                >
                  {result?.passed ? '●' : result ? '✕' : '○'}
                </span>
                <button
                  className="min-w-0 flex-1 text-left font-semibold hover:underline"
                  aria-expanded={open === saved.id}
                  onClick={() => setOpen(open === saved.id ? null : saved.id)}
                >
                  {saved.name}
                </button>
                <span className="text-xs text-soft">
                  {result ? (result.passed ? 'as it must be' : 'gives another wording') : 'not run'}
                </span>
                {editable && result && !result.passed && (
                  <Button kind="quiet" onClick={() => accept.mutate({ id: saved.id, result })}>
                    The new wording is right
                  </Button>
                )}
                {editable && (
                  <Button
                    kind="quiet"
                    aria-label={`Drop the case ${saved.name}`}
                    onClick={() => drop.mutate(saved.id)}
                  >
                    Drop
                  </Button>
                )}
              </div>
              {open === saved.id && result && (
                <div className="mt-1 max-h-80 overflow-auto border-l-2 border-hair pl-3 font-serif text-sm whitespace-pre-wrap">
                  {result.passed ? (
                    result.actual.join('\n')
                  ) : (
                    <WordChanges words={result.words} context={12} />
                  )}
                </div>
              )}
            </li>
          )
        })}
      </ul>
    </div>
  )
}
