import { useState } from 'react'
import { type Answers, readAnswers } from '#core/intake/answers.ts'
import { type IntakeForm, saidIn, textKey } from '#core/intake/form.ts'
import { speaks } from '#core/languages/all.ts'
import type { Language } from '#core/languages/language.ts'
import type { Field } from '#core/outline/field.ts'
import { QuestionPart } from '#web/areas/answering/question.tsx'
import { LanguageChoice } from '#web/areas/signing/language-menu.tsx'
import { Speaking } from '#web/areas/signing/words.tsx'

/** Nothing of a preview is kept anywhere. */
const nowhere = { begin: () => Promise.reject(new Error('A preview takes no files.')) }

/** The form as it will be answered, all pages below each other; what is tried here is kept nowhere. */
export function Preview({
  form,
  outline,
  language,
  onLanguage,
}: {
  readonly form: IntakeForm
  readonly outline: readonly Field[]
  readonly language: Language
  readonly onLanguage: (language: Language) => void
}) {
  const [answers, setAnswers] = useState<Answers>({})
  const { asked } = readAnswers({ form, outline }, answers, speaks(language))
  const now = new Set(asked.map(({ id }) => id))
  return (
    <Speaking language={language}>
      <div className="flex items-center text-sm text-soft">
        <span className="flex-1">As it is answered; what you try here is kept nowhere.</span>
        <LanguageChoice onChoose={onLanguage} />
      </div>
      <h2 className="text-xl">{saidIn(form, language, textKey.title, form.title)}</h2>
      {form.introduction && (
        <p className="mt-2 whitespace-pre-wrap">
          {saidIn(form, language, textKey.introduction, form.introduction)}
        </p>
      )}
      {form.pages.map((page) => (
        <div key={page.id}>
          {page.title && (
            <h3 className="mt-6 border-b border-hair pb-1 text-base">
              {saidIn(form, language, textKey.page(page.id), page.title)}
            </h3>
          )}
          {page.questions
            .filter(({ id }) => now.has(id))
            .map((question) => (
              <QuestionPart
                key={question.id}
                question={question}
                form={form}
                field={outline.find(({ name }) => name === question.id)}
                answering={nowhere}
                answer={answers[question.id] ?? (question.default || undefined)}
                problems={[]}
                onLeave={() => undefined}
                onAnswer={(answer) =>
                  setAnswers(({ [question.id]: _before, ...others }) =>
                    answer === null ? others : { ...others, [question.id]: answer },
                  )
                }
              />
            ))}
        </div>
      ))}
    </Speaking>
  )
}
