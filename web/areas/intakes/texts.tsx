import { type Language } from '#core/languages/language.ts'
import type { IntakeForm } from '#core/intake/form.ts'
import { Input, Labelled, TextArea } from '#web/parts/input.tsx'
import type { FormDraft } from './open-drafts.ts'

/** The texts of a form in the language that is looked at: what stands there, and how it is written. */
export interface Texts {
  readonly language: Language
  /** What stands in that language; empty if it was not translated. */
  readonly said: (key: string, own: string) => string
  /** Writes a text: of the form's own language by `set`, else among the translations. */
  readonly write: (
    key: string,
    set: (text: string) => (form: IntakeForm) => IntakeForm,
  ) => (text: string) => void
}

/** The texts of a form in one language. */
export const textsOf = (form: IntakeForm, draft: FormDraft, language: Language): Texts => ({
  language,
  said: (key, own) => (language === form.language ? own : (form.inOther[language]?.[key] ?? '')),
  write: (key, set) => (text) =>
    draft.change(
      language === form.language
        ? set(text)
        : (before) => ({
            ...before,
            inOther: { ...before.inOther, [language]: { ...before.inOther[language], [key]: text } },
          }),
      `${language} ${key}`,
    ),
})

/** A text of the form under its label; untranslated, the form's own shows through. */
export function TextOf({
  texts,
  label,
  hint,
  name,
  own,
  most,
  lines,
  set,
}: {
  readonly texts: Texts
  readonly label: string
  readonly hint?: string
  /** Where it stands among the translations. */
  readonly name: string
  readonly own: string
  readonly most: number
  /** Of several lines. */
  readonly lines?: number
  readonly set: (text: string) => (form: IntakeForm) => IntakeForm
}) {
  const field = {
    value: texts.said(name, own),
    placeholder: own,
    maxLength: most,
    onChange: (event: { target: { value: string } }) => texts.write(name, set)(event.target.value),
  }
  return (
    <Labelled label={label} hint={hint}>
      {lines ? <TextArea rows={lines} {...field} /> : <Input {...field} />}
    </Labelled>
  )
}
