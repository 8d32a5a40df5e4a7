import type { AnswerSummary } from './part-props.ts'

const OUTCOMES: Readonly<Record<NonNullable<AnswerSummary['outcome']>, string>> = {
  new: 'new record',
  changed: 'differs from the record',
  same: 'matches the record',
  taken: 'record updated',
  kept: 'record unchanged',
}

/** How an answer stands, in words. */
export function AnswerState({ answer: { state, outcome } }: { readonly answer: AnswerSummary }) {
  if (state === 'needs a hand') return <span className="text-ochre">needs a hand</span>
  if (state === 'begun') return <span className="text-soft">invited, no response yet</span>
  if (state === 'handed in') return <span className="text-soft">agreements being made</span>
  if (state === 'put aside') return <span className="text-soft">rejected</span>
  return outcome === 'changed' ? (
    <span className="text-ochre">{OUTCOMES.changed}</span>
  ) : (
    <span>{outcome ? OUTCOMES[outcome] : 'made'}</span>
  )
}
