import { stateWord } from '#core/agreement/states.ts'
import type { AgreementState } from '#core/agreement/states.ts'

const tones: Partial<Record<AgreementState, string>> = {
  returned: 'text-brick',
  declined: 'text-brick',
  lapsed: 'text-brick',
  'in approval': 'text-ochre',
  executed: 'text-moss',
  delivered: 'text-moss',
  withdrawn: 'text-soft',
}

export const StateWord = ({ state }: { readonly state: AgreementState }) => (
  <span className={tones[state] ?? ''}>{stateWord(state)}</span>
)
