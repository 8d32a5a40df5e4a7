import { createContext, type RefObject, useContext, useMemo, useState } from 'react'

/** The one cell of a list that is being changed in its place, and ways to go on to another. */
export interface Editing {
  readonly at: { readonly record: string; readonly field: string } | null
  readonly begin: (record: string, field: string) => void
  /** Ends; unless something else has the keyboard by now, it goes back to the list. */
  readonly end: (back?: boolean) => void
  /** On to the next field of the same record, or the one before; of another record, its first or last. */
  readonly step: (by: 1 | -1, record?: string) => void
}

export const EditingContext = createContext<Editing | null>(null)

export function useEditing(): Editing {
  const editing = useContext(EditingContext)
  if (!editing) throw new Error('Outside of a list.')
  return editing
}

/** What is being changed in a list of these fields; `list` holds the table that the keyboard comes back to. */
export function useEditingOf(fields: readonly string[], list: RefObject<HTMLElement | null>): Editing {
  const [at, setAt] = useState<Editing['at']>(null)
  const names = fields.join(' ')
  return useMemo(() => {
    const end = (back = true) => {
      setAt(null)
      if (back) list.current?.querySelector<HTMLElement>('[role=table]')?.focus({ preventScroll: true })
    }
    return {
      at,
      begin: (record, field) => setAt({ record, field }),
      end,
      step: (by, record = at?.record) => {
        const all = names.split(' ')
        const from = record === at?.record && at ? all.indexOf(at.field) : by === 1 ? -1 : all.length
        const field = all[from + by]
        if (field && record) setAt({ record, field })
        else end()
      },
    }
  }, [at, names, list])
}
