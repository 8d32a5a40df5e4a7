import type { Api } from '#contract/api.ts'
import type { Body } from '#contract/route.ts'
import type { Setup } from '#web/areas/runs/open-run/use-run.ts'

/** What a change of a run's set-up is sent as. */
export type Change = Body<Api['changeRun']>
/** What each section of the set-up works on. */
export interface SectionProps {
  readonly setup: Setup
  /** Nobody may change it, or not just now. */
  readonly locked: boolean
  /** Makes a change from the set-up as it is with all changes before it, sent or not. */
  readonly change: (next: (now: Setup) => Change) => void
}
