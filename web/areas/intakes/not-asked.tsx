import * as edit from '#core/intake/edit.ts'
import { Input } from '#web/parts/input.tsx'
import type { PartProps } from './part-props.ts'

/** Fields that the form does not ask for: each with the value that all responses get, if any. */
export function NotAsked({
  intake: { outline },
  form,
  draft,
  editable,
  onAsk,
}: PartProps & { readonly onAsk: (field: string) => void }) {
  const fields = [
    ...edit.unasked(form, outline).map(({ name }) => ({ field: name, value: null })),
    ...form.leftOut,
  ]
  if (fields.length === 0) return null
  const put = (field: string, value: string) =>
    draft.change(
      (before) => ({
        ...before,
        leftOut: [...before.leftOut.filter((each) => each.field !== field), { field, value }],
      }),
      `left ${field}`,
    )
  return (
    <section aria-label="Not asked" className="mt-5">
      <h2 className="border-b border-hair pb-1 font-serif text-base font-semibold">Not asked</h2>
      <ul>
        {fields.map(({ field, value }) => {
          const label = outline.find(({ name }) => name === field)?.label ?? field
          return (
            <li key={field} className="flex items-center gap-3 border-b border-hair/60 py-1 text-sm">
              <span className="min-w-0 flex-1 truncate">
                {label} <code className="text-xs text-soft">{field}</code>
              </span>
              <Input
                aria-label={`${label} for all`}
                className="max-w-48"
                placeholder="none"
                maxLength={4000}
                disabled={!editable}
                value={value ?? ''}
                onChange={(event) => put(field, event.target.value)}
              />
              {editable && (
                <button
                  className="text-petrol underline"
                  onClick={() => {
                    draft.change((before) => edit.askAgain(before, outline, field))
                    onAsk(field)
                  }}
                >
                  Ask
                </button>
              )}
            </li>
          )
        })}
      </ul>
      <p className="mt-1 text-xs text-soft">All responses get the value entered here.</p>
    </section>
  )
}
