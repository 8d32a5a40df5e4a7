import { type AgreementState, describeState } from '#core/agreement/states.ts'

const tones: Partial<Record<AgreementState, string>> = {
  returned: 'text-brick',
  declined: 'text-brick',
  lapsed: 'text-brick',
  'in approval': 'text-ochre',
  executed: 'text-moss',
  delivered: 'text-moss',
  withdrawn: 'text-soft',
}

/** The state of an agreement; `undelivered`: mail to somebody came back. */
export const StateWord = ({
  state,
  undelivered = false,
}: {
  readonly state: AgreementState
  readonly undelivered?: boolean
}) => (
  <span
    className={undelivered ? 'text-brick' : (tones[state] ?? '')}
    title={undelivered ? describeState(state, true) : undefined}
  >
    {describeState(state, undelivered)}
  </span>
)
