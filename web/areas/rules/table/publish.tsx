import { useState } from 'react'
import type { RuleTableAnswer } from '#contract/rule.ts'
import { runRuleCase } from '#core/rules/cases.ts'
import type { RuleTable } from '#core/rules/table.ts'
import type { RuleNames } from '#core/rules/names.ts'
import { call, useCall } from '#web/api/client.ts'
import { useNotice } from '#web/api/notices.tsx'
import type { DraftState } from '#web/drafts/draft-store.ts'
import { queries } from '#web/api/queries.ts'
import { Button } from '#web/parts/button.tsx'
import { Dialog } from '#web/parts/dialog.tsx'
import { NoteForm } from '#web/parts/form/note-form.tsx'
import { plural } from '#web/parts/signs/when.tsx'
import type { AnalysisTold } from './analysis-worker.ts'
import type { TableDraft } from './use-table.ts'

/** How the draft stands with the server; if a colleague saved since, one chooses. */
export function SavingLine({
  draft,
  state,
}: {
  readonly draft: TableDraft
  readonly state: DraftState<RuleTable>
}) {
  const { save, theirs } = state
  if (theirs)
    return (
      <span role="alert" className="flex items-center gap-2 text-sm text-ochre">
        A colleague has saved this table since.
        <button className="underline" onClick={() => draft.settleConflict('theirs')}>
          Use their table
        </button>
        <button className="underline" onClick={() => draft.settleConflict('mine')}>
          Keep my table
        </button>
      </span>
    )
  return (
    <span role="status" className={`px-1 text-sm ${save.kind === 'fault' ? 'text-brick' : 'text-soft'}`}>
      {save.kind === 'saved' ? 'saved' : save.kind === 'fault' ? `not saved: ${save.text}` : 'saving …'}
    </span>
  )
}

/** Publishes the draft as an edition: what stands against it is said first, and what it does to agreements on their way. */
export function Publish({
  answer,
  draft,
  table,
  told,
  names,
}: {
  readonly answer: RuleTableAnswer
  readonly draft: TableDraft
  readonly table: RuleTable
  readonly told: AnalysisTold | null
  readonly names: RuleNames
}) {
  const { id } = answer
  const say = useNotice()
  const [open, setOpen] = useState(false)
  const force = useCall('setRulesInForce')
  const publish = async (note: string) => {
    const version = await draft.settle()
    if (version === null) throw new Error('The draft could not be saved, so it was not published.')
    return call('publishRules', { params: { id }, body: { version, note } })
  }
  const newest = answer.editions[0]
  const next = (newest?.number ?? 0) + 1
  const faults = told?.faults ?? []
  const grave = (told?.findings ?? []).filter(({ weight }) => weight === 'fault')
  const failing = answer.cases.filter((saved) => !runRuleCase(table, saved, names).passed)
  const against = [
    ...faults.map(({ message }) => message),
    ...grave.map(({ says }) => says),
    ...failing.map(({ name }) => `The case “${name}” fails.`),
  ]
  const open_ = () => {
    void draft.settle().then(() => queries.invalidateQueries({ queryKey: ['ruleTable', { id }] }))
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
          {answer.inForce ? 'Retire' : `Publish edition ${newest.number} again`}
        </Button>
      )}
      <Button kind="main" disabled={!told} onClick={open_}>
        Publish edition {next}
      </Button>
      {open && (
        <Dialog title={`Publish edition ${next}`} open onClose={() => setOpen(false)}>
          {against.length > 0 ? (
            <div role="alert" className="border-l-2 border-brick pl-3">
              <p>Edition {next} cannot be published yet:</p>
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
                It routes agreements that are made, revised or returned to approval from now on.{' '}
                {answer.onTheirWay > 0 &&
                  `${plural(answer.onTheirWay, 'agreement')} in approval by a former edition ${answer.onTheirWay === 1 ? 'keeps its route' : 'keep their routes'}.`}
              </p>
              <Questions told={told} />
            </>
          )}
          <div className="mt-3">
            <NoteForm
              label="What has changed"
              hint="For readers of the editions later. Optional."
              submit={`Publish edition ${next}`}
              disabled={against.length > 0}
              onClose={() => setOpen(false)}
              send={publish}
              onDone={({ edition }) => {
                setOpen(false)
                say(`Edition ${edition} routes agreements made from now on.`)
              }}
            />
          </div>
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
