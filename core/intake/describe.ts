import type { Language } from '../languages/language.ts'
import type { Say } from '../languages/speak.ts'
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
  switch (field.type) {
    case 'number':
      return figure(value, reader.language, {})
    case 'percent':
      return `${figure(value, reader.language, {})} %`
    case 'money':
      return figure(value, reader.language, { style: 'currency', currency: field.currency ?? 'USD' })
    case 'date':
      return new Intl.DateTimeFormat(reader.language, { dateStyle: 'long', timeZone: 'UTC' }).format(
        new Date(`${value}T00:00:00Z`),
      )
    default:
      return value
  }
}

/** Decimal text by the language's rules (CLDR), all its digits kept. */
const figure = (decimal: string, language: Language, options: Intl.NumberFormatOptions): string =>
  new Intl.NumberFormat(language, { maximumFractionDigits: 20, ...options }).format(
    decimal as Intl.StringNumericLiteral,
  )
