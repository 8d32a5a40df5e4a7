import type { Language } from '../languages/language.ts'
import type { Say } from '../languages/speak.ts'
import type { FieldType } from '../outline/field-kinds.ts'
import { type Field, type FieldValue, isItems } from '../outline/field.ts'
import { type AnsweredFile, type Answers, type AskedForm, readAnswers } from './answers.ts'
import { saidIn, textKey } from './form.ts'

/** A question with what was answered to it, in words; null: nothing was. */
export interface SaidAnswer {
  readonly question: string
  readonly label: string
  readonly text: string | null
}

/** All that was answered to what is asked, as the reader would write it. */
export function describeAnswers(
  asked: AskedForm,
  answers: Answers,
  reader: { readonly say: Say; readonly language: Language },
): readonly SaidAnswer[] {
  const fields = new Map(asked.outline.map((field) => [field.name, field]))
  const read = readAnswers(asked, answers, reader)
  return read.asked.map(({ id, kind, label }) => {
    const field = fields.get(id)
    const answer = answers[id]
    const text =
      kind === 'file'
        ? Array.isArray(answer)
          ? (answer as readonly AnsweredFile[]).map(({ name }) => name).join(', ')
          : ''
        : field && read.data[id] !== undefined
          ? describeValue(field, read.data[id], reader)
          : typeof answer === 'string'
            ? answer
            : ''
    return {
      question: id,
      label: saidIn(asked.form, reader.language, textKey.label(id), label),
      text: text.trim() === '' ? null : text,
    }
  })
}

/** A value as the reader would write it. */
export function describeValue(
  field: Field,
  value: FieldValue,
  reader: { readonly say: Say; readonly language: Language },
): string {
  if (isItems(value))
    return value
      .map((item) =>
        (field.items ?? [])
          .flatMap((each) =>
            item[each.name] === undefined ? [] : [describeValue(each, item[each.name]!, reader)],
          )
          .join(', '),
      )
      .join('\n')
  if (typeof value === 'boolean') return reader.say(value ? 'form.yes' : 'form.no')
  return SAID[field.type](value, reader.language, field)
}

const asWritten = (value: string): string => value
const numberOf = (value: string, language: Language): string => figure(value, language, {})
/** A time or day of no zone, in a language; its ISO 8601 text is read as if it were one of UTC. */
const moment =
  (options: Intl.DateTimeFormatOptions, whole: (value: string) => string) =>
  (value: string, language: Language): string =>
    new Intl.DateTimeFormat(language, { ...options, timeZone: 'UTC' }).format(new Date(`${whole(value)}Z`))

/** How a value of each type is told to a respondent. */
const SAID: Readonly<Record<FieldType, (value: string, language: Language, field: Field) => string>> = {
  text: asWritten,
  'long text': asWritten,
  number: numberOf,
  money: (value, language, { currency }) =>
    figure(value, language, { style: 'currency', currency: currency ?? 'USD' }),
  percent: (value, language) => `${numberOf(value, language)} %`,
  date: moment({ dateStyle: 'long' }, (value) => `${value}T00:00`),
  time: moment({ timeStyle: 'short' }, (value) => `1970-01-01T${value}`),
  'date and time': moment({ dateStyle: 'long', timeStyle: 'short' }, (value) => value),
  'yes/no': asWritten,
  choice: asWritten,
  email: asWritten,
  phone: asWritten,
  address: asWritten,
  list: asWritten,
}

/** Decimal text by the language's rules (CLDR), all its digits kept. */
const figure = (decimal: string, language: Language, options: Intl.NumberFormatOptions): string =>
  new Intl.NumberFormat(language, { maximumFractionDigits: 20, ...options }).format(
    decimal as Intl.StringNumericLiteral,
  )
