import type { Api } from '#contract/api.ts'
import type { Answer } from '#contract/route.ts'
import type { IntakeForm } from '#core/intake/form.ts'
import type { FormProblem } from '#core/intake/problems.ts'
import type { FormDraft } from './open-drafts.ts'

export type Intake = Answer<Api['intake']>
export type AnswerSummary = Answer<Api['answers']>[number]

export interface PartProps {
  readonly intake: Intake
  readonly form: IntakeForm
  readonly draft: FormDraft
  readonly problems: readonly FormProblem[]
  readonly editable: boolean
}
