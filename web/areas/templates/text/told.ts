import { plainCondition } from '#core/condition/plain.ts'
import type { SignerRole } from '#core/document/template.ts'
import { coerce } from '#core/outline/coerce.ts'
import { fieldsByName, type Outline } from '#core/outline/field.ts'
import { toValue } from '#core/outline/record.ts'
import { formatValue } from '#core/text/format.ts'
import type { Told } from './passage-notes.ts'

/** Conditions, lists and roles as the template's reader knows them: by what they are called, values as they are printed. */
export function toldBy(all: Outline, roles: readonly SignerRole[], language: string): Told {
  const fields = fieldsByName(all)
  const fieldOf = (name: string) => fields.get(name)?.field ?? null
  const lowered = (label: string) =>
    /^\p{Lu}\p{Ll}/u.test(label) ? label[0]!.toLowerCase() + label.slice(1) : label
  return {
    condition: (text) =>
      plainCondition(text, {
        label: (name) => {
          const field = fieldOf(name) ?? fieldOf(name.replace(/^item\./, ''))
          return field ? lowered(field.label) : name
        },
        value: (name, value) => {
          const field = fieldOf(name)
          const read = field && !['text', 'choice'].includes(field.type) ? coerce(field, value, null) : null
          if (!field || !read?.ok || read.value === null) return value
          return formatValue(field, toValue(field, read.value), null, language) ?? value
        },
      }),
    list: (name) => {
      const field = fieldOf(name)
      return field ? lowered(field.label) : name
    },
    role: (key) => roles.find((role) => role.key === key)?.label ?? key,
  }
}
