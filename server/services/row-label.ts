import type { TemplateContent } from '#core/document/template.ts'
import type { RecordData } from '#core/outline/field.ts'
import { patternNames } from '#core/text/pattern.ts'

/** What a row is called in lists: the first value its agreement's name is made of, else the first text it has. */
export function rowLabel(content: TemplateContent, data: RecordData, row: number): string {
  const texts = content.outline.filter(({ type }) => type === 'text').map(({ name }) => name)
  const value = [...patternNames(content.sending.agreementName), ...texts]
    .map((name) => data[name])
    .find((found) => typeof found === 'string' && found !== '')
  return typeof value === 'string' ? value : `Row ${row}`
}
