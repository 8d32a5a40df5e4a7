import { RECORD_STEPS, withBudget } from '../expression/values/budget.ts'
import type { InWords } from '../expression/explain.ts'
import { toText } from '../expression/values/value.ts'
import type { RecordData } from '../outline/field.ts'
import { completeRecord, toValue } from '../outline/record.ts'
import { formatValue } from '../text/format.ts'
import { fillPattern } from '../text/pattern.ts'
import type { ReadyTemplate } from './prepare.ts'

/** `{{name}}` patterns of a template for one record; `{{number}}` is the agreement's number. */
export function fill(
  template: ReadyTemplate,
  data: RecordData,
  pattern: string,
  number: string | null,
): string {
  const { data: complete } = withBudget(RECORD_STEPS, () => completeRecord(template.outline, data))
  return fillPattern(pattern, (name) => (name === 'number' ? number : shown(template, complete, name)))
}

/** A field's value in its usual format; null where there is none. */
export function shown(template: ReadyTemplate, data: RecordData, name: string): string | null {
  const field = template.fields.get(name)
  const value = data[name]
  return field && value !== undefined
    ? formatValue(field, toValue(field, value), null, template.content.language)
    : null
}

/** How a template's own words and formats tell names and values. */
export const inWordsOf = (template: ReadyTemplate): InWords => ({
  label: (name) =>
    template.fields.get(name)?.label ??
    template.mergeable.get(name.replace(/^item\./, ''))?.field.label ??
    name,
  show: (value, name) => {
    const field = name === null ? undefined : template.fields.get(name)
    return (
      (field && formatValue(field, value, null, template.content.language)) ??
      (value === null ? 'empty' : toText(value))
    )
  },
})
