import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import type { RuleTableAnswer } from '#contract/rule.ts'
import { runRuleCase } from '#core/rules/cases.ts'
import type { RuleNames } from '#core/rules/names.ts'
import { call, problemText, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import { queries } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { Labelled, TextArea } from '#web/parts/input.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import type { AnalysisTold } from './analysis-worker.ts'
import type { KeptTable, TableStore } from './table-store.ts'

/** How the draft stands with the server; after somebody else’s save one chooses. */
export function SavingLine({
  id,
  keeper,
  kept,
}: {
  readonly id: string
  readonly keeper: TableStore
  readonly kept: KeptTable
}) {
  const { saving } = kept
  const theirs = async (keep: 'mine' | 'theirs') => {
    const { draft, version } = await call('ruleTable', { params: { id } })
    keeper.resolve({ table: draft, version }, keep)
  }
  if (saving.kind === 'conflict')
    return (
      <span role="alert" className="flex items-center gap-2 text-sm text-ochre">
        Somebody else has saved this table.
        <button className="underline" onClick={() => void theirs('theirs')}>
          Take theirs
        </button>
        <button className="underline" onClick={() => void theirs('mine')}>
          Keep mine
        </button>
      </span>
    )
  return (
    <span role="status" className={`px-1 text-sm ${saving.kind === 'failed' ? 'text-brick' : 'text-soft'}`}>
      {saving.kind === 'saved'
        ? 'saved'
        : saving.kind === 'unsaved'
          ? 'saving …'
          : `not saved: ${saving.problem}`}
    </span>
  )
}

/** Puts the draft in force: what stands against it is said first, and what it does to agreements on their way. */
export function Publish({
  answer,
  keeper,
  kept,
  told,
  names,
}: {
  readonly answer: RuleTableAnswer
  readonly keeper: TableStore
  readonly kept: KeptTable
  readonly told: AnalysisTold | null
  readonly names: RuleNames
}) {
  const { id } = answer
  const say = useNotice()
  const [open, setOpen] = useState(false)
  const [note, setNote] = useState('')
  const force = useCall('setRulesInForce')
  const publish = useMutation({
    mutationFn: async () => {
      if (!(await keeper.settle()))
        throw new Error('The draft could not be saved, so it was not put in force.')
      return call('publishRules', { params: { id }, body: { version: keeper.state().version, note } })
    },
    onSuccess: ({ edition }) => {
      setOpen(false)
      setNote('')
      say(`Edition ${edition} decides about agreements made from now on.`)
    },
    onError: (error) => say(problemText(error), 'fault'),
  })
  const newest = answer.editions[0]
  const faults = told?.faults ?? []
  const grave = (told?.findings ?? []).filter(({ weight }) => weight === 'fault')
  const failing = answer.cases.filter((saved) => !runRuleCase(kept.table, saved, names).passed)
  const against = [
    ...faults.map(({ message }) => message),
    ...grave.map(({ says }) => says),
    ...failing.map(({ name }) => `The case “${name}” fails.`),
  ]
  const open_ = () => {
    void keeper.settle().then(() => queries.invalidateQueries({ queryKey: ['ruleTable', { id }] }))
    setOpen(true)
  }
  return (
    <>
      {newest && (
        <Button
          kind="quiet"
          busy={force.isPending}
          onClick={() => force.mutate({ params: { id }, body: { inForce: !answer.inForce } })}
        >
          {answer.inForce ? 'Take out of force' : `Put edition ${newest.number} back in force`}
        </Button>
      )}
      <Button kind="main" disabled={!told} onClick={open_}>
        Put in force
      </Button>
      {open && (
        <Dialog
          title={`Put edition ${(newest?.number ?? 0) + 1} in force`}
          open
          onClose={() => setOpen(false)}
        >
          {against.length > 0 ? (
            <div role="alert" className="border-l-2 border-brick pl-3">
              <p>It cannot be put in force yet:</p>
              <ul className="mt-1 list-disc pl-5">
                {against.slice(0, 8).map((each, i) => (
                  <li key={i}>{each}</li>
                ))}
              </ul>
              {against.length > 8 && <p>And {against.length - 8} more.</p>}
            </div>
          ) : (
            <>
              <p>
                It decides about agreements that are made, revised or put to approval again from now on.{' '}
                {answer.onTheirWay > 0 &&
                  `${plural(answer.onTheirWay, 'agreement')} in approval by a former edition ${answer.onTheirWay === 1 ? 'keeps its route' : 'keep their routes'}.`}
              </p>
              <Questions told={told} />
            </>
          )}
          <form
            className="mt-3"
            onSubmit={(event) => {
              event.preventDefault()
              publish.mutate()
            }}
          >
            <Labelled
              label="What has changed"
              hint="For whoever reads the editions later; may be left empty."
            >
              <TextArea
                rows={2}
                maxLength={500}
                value={note}
                onChange={(event) => setNote(event.target.value)}
              />
            </Labelled>
            <div className="mt-4 flex justify-end gap-2">
              <Button onClick={() => setOpen(false)}>Not yet</Button>
              <Button kind="main" type="submit" busy={publish.isPending} disabled={against.length > 0}>
                Put in force
              </Button>
            </div>
          </form>
        </Dialog>
      )}
    </>
  )
}

function Questions({ told }: { readonly told: AnalysisTold | null }) {
  const questions = (told?.findings ?? []).filter(({ weight }) => weight === 'question')
  const holes = (told?.findings ?? []).filter(({ kind, weight }) => kind === 'hole' && weight === 'remark')
  return (
    <>
      {questions.length > 0 && (
        <p className="mt-2 text-ochre">
          {plural(questions.length, 'question')}: {questions[0]!.says}
        </p>
      )}
      {holes.length > 0 && (
        <p className="mt-2 text-soft">
          {holes.length === 1
            ? holes[0]!.says
            : `Nobody is asked in ${holes.length} kinds of cases; they stand beside the table.`}
        </p>
      )}
    </>
  )
}
