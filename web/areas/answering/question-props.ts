import type { Answer, AnswerProblem } from '#core/intake/answers.ts'
import type { IntakeForm, Question } from '#core/intake/form.ts'
import type { Field } from '#core/outline/field.ts'
import type { Answering } from './use-answering.ts'

/** What every kind of question is given. */
export interface QuestionProps {
  readonly question: Question
  readonly form: IntakeForm
  readonly field: Field | undefined
  /** Where files go: begins the answer, where nothing is begun yet. */
  readonly answering: Pick<Answering, 'begin'>
  readonly answer: Answer | undefined
  readonly problems: readonly AnswerProblem[]
  readonly onAnswer: (answer: Answer | null) => void
  readonly onLeave: () => void
}

/** Choices that are few enough to stand open. */
export const isFew = (field: Field | undefined): boolean =>
  field?.type === 'choice' && (field.choices ?? []).length <= 5
