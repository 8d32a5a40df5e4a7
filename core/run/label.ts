import type { TemplateContent } from '../document/template.ts'
import type { RecordData } from '../outline/field.ts'
import { patternNames } from '../text/pattern.ts'

const textFields = (content: TemplateContent): readonly string[] => [
  ...patternNames(content.sending.agreementName),
  ...content.outline.filter(({ type }) => type === 'text').map(({ name }) => name),
]

/** The field that agreements are named by: the first of the name's pattern, else the first text. */
export const labelField = (content: TemplateContent): string =>
  textFields(content).find((name) => content.outline.some((field) => field.name === name)) ?? ''

/** What a row is called in lists: the first value its agreement's name is made of, else the first text it has. */
export function rowLabel(content: TemplateContent, data: RecordData, row: number): string {
  const value = textFields(content)
    .map((name) => data[name])
    .find((found) => typeof found === 'string' && found !== '')
  return typeof value === 'string' ? value : `Row ${row}`
}
