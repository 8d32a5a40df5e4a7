import type { Field } from '#core/outline/field.ts'
import { useStudio } from '#web/areas/templates/draft/studio-context.ts'

/** Changes a field of the outline, or (with `list`) a field of a list's items. */
export function useFieldChange(full: string, list: Field | null) {
  const { change } = useStudio()
  const name = list ? full.slice(list.name.length + 1) : full
  return (next: (field: Field) => Field | null, kind = '') =>
    change((before) => {
      const within = (fields: readonly Field[]) =>
        fields.flatMap((field) => {
          if (field.name !== name) return [field]
          const made = next(field)
          return made ? [made] : []
        })
      return {
        ...before,
        outline: list
          ? before.outline.map((field) =>
              field.name === list.name ? { ...field, items: within(field.items ?? []) } : field,
            )
          : within(before.outline),
      }
    }, kind)
}
