import { Plus, X } from 'lucide-react'
import { useId } from 'react'
import { MOST_LINES } from '#core/intake/answers.ts'
import type { Field } from '#core/outline/field.ts'
import { useWords } from '#web/areas/signing/words.tsx'
import type { QuestionProps } from './question-props.ts'
import { ValueInput } from './value-input.tsx'

type Line = Readonly<Record<string, string | boolean>>

/** A list: line by line, each with its own fields. */
export function LinesQuestion({
  field,
  answer,
  problems,
  onAnswer,
}: Pick<QuestionProps, 'answer' | 'problems' | 'onAnswer'> & { readonly field: Field }) {
  const { say } = useWords()
  const id = useId()
  const given = (field.items ?? []).filter(({ computed }) => computed === undefined)
  const lines = Array.isArray(answer) && answer.length ? (answer as readonly Line[]) : [{}]
  const put = (line: number, name: string, value: string | boolean | null) =>
    onAnswer(
      lines.map((each, i) => {
        if (i !== line) return each
        const { [name]: _before, ...others } = each
        return value === null ? others : { ...others, [name]: value }
      }),
    )
  return (
    <div>
      {lines.map((each, line) => (
        // Lines have no names of their own: their places are what they are known by.
        <fieldset key={line} className="mb-4 border-b border-hair pb-3">
          <legend className="flex w-full items-center text-sm text-soft">
            {say('form.line', { line: line + 1 })}
            {lines.length > 1 && (
              <button
                type="button"
                className="ml-auto flex size-11 items-center justify-center hover:text-ink"
                aria-label={say('form.dropLine', { line: line + 1 })}
                onClick={() => onAnswer(lines.filter((_, i) => i !== line))}
              >
                <X size={16} aria-hidden />
              </button>
            )}
          </legend>
          <div className="grid gap-x-4 gap-y-2 sm:grid-cols-2">
            {given.map((item) => {
              const place = `${id}-${line}-${item.name}`
              const problem =
                problems.find((told) => told.line === line && told.item === item.name)?.message ?? null
              const wide = ['long text', 'address', 'choice', 'yes/no'].includes(item.type)
              return (
                <div key={item.name} className={wide ? 'sm:col-span-2' : ''}>
                  <label htmlFor={place} className="text-sm">
                    {item.label}
                  </label>
                  <ValueInput
                    id={place}
                    field={item}
                    label={item.label}
                    value={each[item.name]}
                    problem={problem}
                    onValue={(value) => put(line, item.name, value)}
                  />
                  {problem && (
                    <p id={`${place}-problem`} className="mt-0.5 text-sm text-brick">
                      {problem}
                    </p>
                  )}
                </div>
              )
            })}
          </div>
        </fieldset>
      ))}
      {lines.length < MOST_LINES && (
        <button
          type="button"
          className="flex min-h-11 items-center gap-1.5 text-petrol underline"
          onClick={() => onAnswer([...lines, {}])}
        >
          <Plus size={16} aria-hidden /> {say('form.addLine')}
        </button>
      )}
    </div>
  )
}
