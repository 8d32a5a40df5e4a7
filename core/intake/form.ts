import type { FieldType } from '../outline/field-kinds.ts'
import type { Language } from '../languages/language.ts'
import type { RecordKind } from '../records/kinds.ts'

/** One thing that is asked. Its texts are in the form's language; others stand in `inOther`. */
export interface Question {
  /** Of a value the field's name in the outline; of a file a name of its own. */
  readonly id: string
  readonly kind: 'value' | 'file'
  readonly label: string
  readonly help: string
  readonly example: string
  readonly required: boolean
  /** Stands there before anything is answered; written as it would be answered. */
  readonly default: string
  /** Further fields that get the same answer: two templates may have two names for one thing. */
  readonly also: readonly string[]
  /** FEEL over what is answered; empty: always asked. */
  readonly when: string
  /** FEEL over what is answered up to here that has to be true of the answer; absent or empty: any that can be read will do. */
  readonly check?: string | undefined
  /** What is said where it is not; absent or empty: that it does not fit the other answers. */
  readonly says?: string | undefined
}

/** Questions that stand together on one screen. */
export interface QuestionPage {
  readonly id: string
  readonly title: string
  readonly questions: readonly Question[]
}

/** A field that is not asked for, and the value that all answers get for it; empty: none. */
export interface LeftOut {
  readonly field: string
  readonly value: string
}

/** Which record the answers become, and by which of its fields it is known again. */
export interface AnsweredRecord {
  readonly kind: Exclude<RecordKind, 'price'>
  readonly key: string
  /** Of the record's fields, the question that fills each. */
  readonly fields: Readonly<Record<string, string>>
}

/** What becomes of the agreements once they are made: they wait for somebody, go out, or are signed at once. */
export const AFTERWARDS = ['wait', 'send', 'sign'] as const
export type Afterwards = (typeof AFTERWARDS)[number]

/** A form that outside people fill: its pages, and what becomes of an answer. */
export interface IntakeForm {
  readonly title: string
  readonly introduction: string
  /** What is said once it is handed in. */
  readonly thanks: string
  readonly language: Language
  readonly pages: readonly QuestionPage[]
  readonly leftOut: readonly LeftOut[]
  /** The question whose answer is the mail address of whoever answers; null: nobody is written to. */
  readonly email: string | null
  readonly record: AnsweredRecord | null
  readonly afterwards: Afterwards
  /** Texts in other languages, by `textKey`. */
  readonly inOther: Readonly<Partial<Record<Language, Readonly<Record<string, string>>>>>
}

/** Texts that can be said in several languages. */
export const textKey = {
  title: 'title',
  introduction: 'introduction',
  thanks: 'thanks',
  page: (id: string) => `page ${id}`,
  label: (id: string) => `label ${id}`,
  help: (id: string) => `help ${id}`,
  says: (id: string) => `says ${id}`,
}

/** A text in a language, or as the form itself says it. */
export const saidIn = (form: IntakeForm, language: Language, key: string, own: string): string =>
  (language === form.language ? null : form.inOther[language]?.[key]?.trim()) || own

/** Types of which one's values can be the other's as they are. */
export const areAlike = (a: FieldType, b: FieldType): boolean =>
  a === b || (TEXTS.includes(a) && TEXTS.includes(b))
const TEXTS: readonly FieldType[] = ['text', 'long text', 'address']

/** All fields that a form's questions fill. */
export const filledFields = (form: Pick<IntakeForm, 'pages'>): ReadonlySet<string> =>
  new Set(questionsOf(form).flatMap(({ id, kind, also }) => (kind === 'value' ? [id, ...also] : [])))

/** All questions, in the order they are met. */
export const questionsOf = (form: Pick<IntakeForm, 'pages'>): readonly Question[] =>
  form.pages.flatMap(({ questions }) => questions)

/** The most questions, and pages, that one form may have. */
export const MOST_QUESTIONS = 300
