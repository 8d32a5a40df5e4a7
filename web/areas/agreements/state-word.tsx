import type { AgreementState } from '#core/agreement/states.ts'

const tones: Partial<Record<AgreementState, string>> = {
  returned: 'text-brick',
  declined: 'text-brick',
  lapsed: 'text-brick',
  'in approval': 'text-ochre',
  executed: 'text-moss',
  withdrawn: 'text-soft',
}

/** States as a reader says them, where that differs from their names. */
export const STATE_WORDS: Partial<Record<AgreementState, string>> = { cleared: 'ready to send' }

export const StateWord = ({ state }: { readonly state: AgreementState }) => (
  <span className={tones[state] ?? ''}>{STATE_WORDS[state] ?? state}</span>
)
