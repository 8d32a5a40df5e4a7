import { type ReactNode, useId } from 'react'
import { saidIn, textKey } from '#core/intake/form.ts'
import { useWords } from '#web/areas/signing/words.tsx'
import { FilesQuestion } from './files.tsx'
import { LinesQuestion } from './lines.tsx'
import { isFew, type QuestionProps } from './question-props.ts'
import { ValueInput } from './value-input.tsx'

/** A question as an article in the margin of its answer: what is asked stands left, what is answered right of the line. */
export function QuestionPart(props: QuestionProps) {
  const { question, form, field, answer, problems, onAnswer, onLeave } = props
  const { say, language } = useWords()
  const id = useId()
  const label = saidIn(form, language, textKey.label(question.id), question.label)
  const help = saidIn(form, language, textKey.help(question.id), question.help)
  const own = problems.find(({ line }) => line === undefined)
  const single = question.kind === 'value' && field?.type !== 'list'
  return (
    <div
      className="mt-5 gap-5 sm:grid sm:grid-cols-[13rem_minmax(0,1fr)]"
      role={single ? undefined : 'group'}
      aria-labelledby={single ? undefined : `${id}-label`}
      onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && onLeave()}
    >
      <div className="sm:pt-2.5 sm:text-right">
        <Asking id={id} single={single} boolean={field?.type === 'yes/no' || isFew(field)}>
          {label}
        </Asking>
        {!question.required && <span className="block text-sm text-soft">{say('form.optional')}</span>}
        {help && (
          <p id={`${id}-help`} className="text-sm text-soft">
            {help}
          </p>
        )}
      </div>
      <div className="mt-1 border-hair sm:mt-0 sm:border-l sm:pl-5">
        {question.kind === 'file' ? (
          <FilesQuestion {...props} />
        ) : !field ? null : field.type === 'list' ? (
          <LinesQuestion {...props} field={field} />
        ) : (
          <ValueInput
            id={id}
            field={field}
            label={label}
            example={question.example}
            described={help ? `${id}-help` : undefined}
            value={typeof answer === 'object' ? undefined : answer}
            problem={own?.message ?? null}
            onValue={onAnswer}
          />
        )}
        {own && (
          <p id={`${id}-problem`} className="mt-1 text-sm text-brick">
            {own.message}
          </p>
        )}
      </div>
    </div>
  )
}

function Asking({
  id,
  single,
  boolean,
  children,
}: {
  readonly id: string
  readonly single: boolean
  readonly boolean: boolean
  readonly children: ReactNode
}) {
  return single && !boolean ? (
    <label htmlFor={id} className="font-serif text-[1.0625rem] font-semibold wrap-anywhere">
      {children}
    </label>
  ) : (
    <span id={`${id}-label`} className="font-serif text-[1.0625rem] font-semibold wrap-anywhere">
      {children}
    </span>
  )
}
